// What is noted with a step, as it is typed and as it is sent.

import type { FitState } from "../api/client";
import { FASTENER_STATES } from "./fasteners";

export type StepEntry = FitState["steps"][number];
export type Notes = StepEntry["notes"];
export type Heat = NonNullable<Notes["heat"]>;
export type Adhesive = NonNullable<Notes["adhesive"]>;
export type AdhesivePlace = NonNullable<Adhesive["where"]>[number];
export const PLACES: readonly (readonly [AdhesivePlace, string])[] = [
  ["top", "Top"],
  ["bottom", "Bottom"],
  ["left", "Left"],
  ["right", "Right"],
  ["under", "Behind"],
];
export type PartFate = NonNullable<Notes["parts"]>[string];

export const HEAT_SOURCES: readonly (readonly [Heat["source"], string])[] = [
  ["plate", "Heating plate"],
  ["hot_air", "Hot air"],
  ["hair_dryer", "Hair dryer"],
  ["warm_pack", "Warm pack"],
  ["other", "Something else"],
];
export const ADHESIVES: readonly (readonly [Adhesive["kind"], string])[] = [
  ["tape", "Tape"],
  ["laid_on", "It came laid on"],
  ["liquid", "Liquid glue"],
  ["strips", "Stretch strips"],
  ["foam", "Foam"],
  ["none", "None"],
];
export const SIDES: readonly (readonly [Adhesive["side"], string])[] = [
  ["frame", "On the frame"],
  ["part", "On the part"],
  ["both", "On both"],
];
export const FATES: readonly (readonly [PartFate, string])[] = [
  ["moved", "Moved"],
  ["not_there", "Was not there"],
  ["damaged", "Damaged"],
];

export interface Typed {
  heldS: number;
  heat: { source: Heat["source"] | ""; setting: string; cycles: string; seconds: string; battery: string };
  adhesive: {
    kind: Adhesive["kind"] | "";
    side: Adhesive["side"];
    thickness: string;
    gap: string;
    where: AdhesivePlace[];
  };
  parts: Record<string, PartFate>;
  liners: Record<string, "off" | "none_there">;
  hours: string;
  forcedOff: string;
}
export const EMPTY: Typed = {
  heldS: 0,
  heat: { source: "", setting: "", cycles: "1", seconds: "", battery: "" },
  adhesive: { kind: "", side: "frame", thickness: "", gap: "", where: [] },
  parts: {},
  liners: {},
  hours: "",
  forcedOff: "",
};

/** A number as people write it; null for an empty field, NaN for what is none. */
export function numberOf(text: string): number | null {
  const plain = text.trim().replace(",", ".");
  return plain === "" ? null : Number(plain);
}

const good = (text: string): boolean => !Number.isNaN(numberOf(text) ?? 0);

/** Whether every number can be read. */
export const readable = ({ heat, adhesive, hours, forcedOff }: Typed): boolean =>
  [heat.setting, heat.cycles, heat.seconds, heat.battery, adhesive.thickness, adhesive.gap, hours, forcedOff].every(
    good,
  );

/** The notes as they are sent: what was not asked for is left out. */
export function notesOf(typed: Typed): Notes {
  const { heat, adhesive } = typed;
  return {
    held_s: typed.heldS,
    by_eye: false,
    fasteners: {},
    forced_off: numberOf(typed.forcedOff) ?? 0,
    ...(heat.source && {
      heat: {
        source: heat.source,
        setting_c: numberOf(heat.setting),
        cycles: numberOf(heat.cycles) ?? 1,
        seconds: numberOf(heat.seconds) ?? 60,
        battery_c: numberOf(heat.battery),
      },
    }),
    ...(adhesive.kind && {
      adhesive: {
        kind: adhesive.kind,
        side: adhesive.side,
        thickness_mm: numberOf(adhesive.thickness),
        gap_mm: numberOf(adhesive.gap),
        where: adhesive.where,
      },
    }),
    parts: typed.parts,
    liners: typed.liners,
    hours: numberOf(typed.hours),
  };
}

/** What was noted with a step that is done, in a few words each. */
export function notesWords(notes: Notes, state: FitState): string[] {
  const told: string[] = [];
  if (notes.by_eye) told.push("seen by eye");
  if (notes.forced_off) told.push(`forced off ${notes.forced_off} times`);
  for (const [group, one] of Object.entries(notes.fasteners ?? {}))
    for (const { id, title } of FASTENER_STATES)
      if (one[id]) told.push(`${one[id]} ${group.replaceAll("_", " ")} ${title.toLowerCase()}`);
  const { heat, adhesive } = notes;
  if (heat) {
    const source = HEAT_SOURCES.find(([id]) => id === heat.source)?.[1].toLowerCase() ?? "";
    told.push(
      `${source}, ${heat.cycles} times ${heat.seconds} s, battery ${heat.battery_c === null || heat.battery_c === undefined ? "not measured" : `${heat.battery_c} °C`}`,
    );
  }
  if (adhesive) told.push(`adhesive: ${ADHESIVES.find(([id]) => id === adhesive.kind)?.[1].toLowerCase() ?? ""}`);
  for (const [id, fate] of Object.entries(notes.parts ?? {})) {
    const title = state.parts.find((part) => part.id === id)?.title.toLowerCase() ?? id;
    told.push(`${title} ${FATES.find(([one]) => one === fate)?.[1].toLowerCase() ?? fate.replaceAll("_", " ")}`);
  }
  return told;
}

/** Time left as it is told beside a step: 3 h 12 min, 4:05, 15 s. */
export function leftWords(seconds: number): string {
  const whole = Math.ceil(seconds);
  if (whole < 60) return `${whole} s`;
  if (whole < 5400) return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")} min`;
  const minutes = Math.ceil(whole / 60);
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}
