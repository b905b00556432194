// One shape a kind of finding, from the core's table. Dark things are filled, bright ones are outlined, what is not of the panel is a cross.

import { KINDS } from "./vocabulary.gen";

/** How an extended finding fills its box: dark ones are shaded, bright ones lightened, faint ones only outlined. */
export interface Area {
  fill: string;
  opacity: number;
  dash: string | null;
}
export interface Mark {
  path: string;
  filled: boolean;
  dashed: boolean;
  area: Area | null;
}
export interface KindFacts {
  title: string;
  family: "pixel" | "cluster" | "line" | "area" | "whole" | "glass" | "camera";
  of_panel: boolean;
  correctable: boolean;
  ruled: boolean;
  mark: Mark;
}
export type Kind = keyof typeof KINDS;

const TABLE: Record<string, KindFacts> = KINDS;
const SOLID: Area = { fill: "#000", opacity: 0.75, dash: null };
const LIT: Area = { fill: "#fff", opacity: 0.6, dash: null };
/** What a newer server may tell that this page does not know yet. */
const unknown = (kind: string): KindFacts => ({
  title: kind.replace(/_/g, " "),
  family: "area",
  of_panel: true,
  correctable: false,
  ruled: false,
  mark: { path: "M-10 -10h20v20h-20z", filled: false, dashed: true, area: null },
});

export const factsOf = (kind: string): KindFacts => TABLE[kind] ?? unknown(kind);
export const wordOf = (kind: string): string => factsOf(kind).title;
export const markOf = (kind: string): Mark => factsOf(kind).mark;
export const ALL_KINDS = Object.keys(KINDS) as Kind[];
export const areaOf = (kind: string, bright: boolean): Area => markOf(kind).area ?? (bright ? LIT : SOLID);
/** Drawn over its whole extent, rather than as a mark at its place. */
export const isExtended = (kind: string): boolean => ["line", "area", "whole"].includes(factsOf(kind).family);
