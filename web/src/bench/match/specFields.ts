// The properties of a panel as its form asks for them; an empty one is unknown.

import type { Back, Panel } from "../api/client";

export type Spec = Panel["spec"];
export interface SpecField {
  name: keyof Spec;
  label: string;
  kind: "number" | "text" | "choice" | "pair";
  choices?: readonly (readonly [string, string])[];
}
export const SPEC_FIELDS: readonly SpecField[] = [
  { name: "width", label: "Width (px)", kind: "number" },
  { name: "height", label: "Height (px)", kind: "number" },
  { name: "outline_mm", label: "Outline (mm), such as 320.4 x 188.1", kind: "pair" },
  { name: "thickness_mm", label: "Thickness (mm)", kind: "number" },
  {
    name: "mounting",
    label: "Mounting",
    kind: "choice",
    choices: [
      ["side_brackets", "Side brackets"],
      ["ears", "Mounting tabs"],
      ["adhesive", "Adhesive"],
      ["bonded", "Bonded assembly"],
    ],
  },
  {
    name: "connector_side",
    label: "Connector, seen from the back",
    kind: "choice",
    choices: [
      ["left", "Left"],
      ["middle", "Middle"],
      ["right", "Right"],
    ],
  },
  { name: "connector_pins", label: "Pins", kind: "number" },
  { name: "connector_family", label: "Connector family", kind: "text" },
  {
    name: "signal",
    label: "Signal",
    kind: "choice",
    choices: [
      ["eDP", "eDP"],
      ["LVDS", "LVDS"],
      ["MIPI", "MIPI"],
    ],
  },
  { name: "lanes", label: "Lanes or channels", kind: "number" },
  {
    name: "touch",
    label: "Touch",
    kind: "choice",
    choices: [
      ["true", "Yes"],
      ["false", "No"],
    ],
  },
  {
    name: "finish",
    label: "Finish",
    kind: "choice",
    choices: [
      ["matt", "Matt"],
      ["glossy", "Glossy"],
    ],
  },
  { name: "luminance_cd_m2", label: "Luminance (cd/m²)", kind: "number" },
  { name: "refresh_hz", label: "Refresh rate (Hz)", kind: "number" },
  { name: "bits_per_colour", label: "Bits a colour", kind: "number" },
];

export type Texts = Record<string, string>;

/** What stands in the fields of a known panel. */
export const textsOf = (spec: Partial<Spec>): Texts =>
  Object.fromEntries(
    SPEC_FIELDS.map(({ name }) => {
      const value = spec[name];
      return [
        name,
        value === null || value === undefined ? "" : Array.isArray(value) ? value.join(" x ") : String(value),
      ];
    }),
  );

const asNumber = (text: string): number => Number(text.trim().replace(",", "."));

/** The specification that the fields mean, and the labels of those that cannot be read. */
export function specOf(texts: Texts): { spec: Partial<Spec>; wrong: string[] } {
  const spec: Record<string, unknown> = {};
  const wrong: string[] = [];
  for (const { name, label, kind } of SPEC_FIELDS) {
    const text = (texts[name] ?? "").trim();
    if (!text) continue;
    if (kind === "number") {
      spec[name] = asNumber(text);
      if (!(asNumber(text) > 0)) wrong.push(label);
    } else if (kind === "pair") {
      const pair = text.split(/\s*[x×*]\s*/i).map(asNumber);
      spec[name] = pair;
      if (pair.length !== 2 || !pair.every((part) => part > 0)) wrong.push(label);
    } else spec[name] = name === "touch" ? text === "true" : text;
  }
  return { spec: spec, wrong };
}

export const GRADES = [
  ["new_original", "New original"],
  ["pulled", "Original, pulled"],
  ["refurbished", "Refurbished"],
  ["compatible", "Compatible"],
  ["copy", "Copy"],
] as const;
export const COMES_WITH = [
  ["adhesive", "Adhesive laid on"],
  ["button", "Button fitted"],
  ["brackets", "Brackets"],
  ["tools", "Tools"],
  ["film", "Film"],
  ["frame", "Frame"],
  ["battery", "Battery"],
] as const;
export const gradeWords = (grade: string): string => GRADES.find(([id]) => id === grade)?.[1] ?? "";

/** What a photo of the back fills in; what it cannot tell is left as it stands. */
export function fieldsOfBack(back: Back): Texts {
  const told: Texts = {};
  if (back.outline_mm) told.outline_mm = back.outline_mm.join(" x ");
  if (back.connector.side) told.connector_side = back.connector.side;
  if (back.connector.pins) told.connector_pins = String(back.connector.pins);
  if (back.mounting) told.mounting = back.mounting;
  return told;
}

/** A panel in a few words. */
export function briefly(spec: Spec): string {
  const size = spec.width && spec.height ? `${spec.width} x ${spec.height}` : "size unknown";
  const parts = [size, spec.signal, spec.connector_pins && `${spec.connector_pins} pins`, spec.connector_side];
  return parts.filter(Boolean).join(", ");
}
