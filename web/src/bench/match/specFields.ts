// The properties of a panel as its form asks for them; an empty one is unknown.

import { VALUE_SOURCES } from "../../pane/vocabulary.gen";
import type { Back, DataSheetLine, Panel, PanelSource } from "../api/client";

export type Spec = Panel["spec"];
export interface SpecField {
  name: keyof Spec;
  label: string;
  kind: "number" | "text" | "choice" | "pair" | "list" | "flag";
  choices?: readonly (readonly [string, string])[];
}
const YES_NO = [
  ["true", "Yes"],
  ["false", "No"],
] as const;

export const SPEC_FIELDS: readonly SpecField[] = [
  { name: "other_numbers", label: "Other numbers on its label, with commas", kind: "list" },
  { name: "revision", label: "Revision", kind: "text" },
  { name: "width", label: "Width (px)", kind: "number" },
  { name: "height", label: "Height (px)", kind: "number" },
  { name: "visible_mm", label: "Visible size (mm), such as 309.4 x 174.0", kind: "pair" },
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
  {
    name: "connector_edge",
    label: "Connector edge",
    kind: "choice",
    choices: [
      ["bottom", "Bottom"],
      ["top", "Top"],
    ],
  },
  { name: "connector_pins", label: "Pins", kind: "number" },
  { name: "connector_family", label: "Connector family", kind: "text" },
  { name: "locking_bar", label: "Locking bar", kind: "flag", choices: YES_NO },
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
  { name: "touch", label: "Touch", kind: "flag", choices: YES_NO },
  {
    name: "touch_controller",
    label: "Touch controller sits on",
    kind: "choice",
    choices: [
      ["panel", "the panel"],
      ["separate_board", "a board of its own"],
      ["mainboard", "the mainboard"],
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
  { name: "gamut_srgb_percent", label: "Gamut (% of sRGB)", kind: "number" },
  { name: "edid_identity", label: "EDID identity, such as ABC-1A2B", kind: "text" },
];

export type Texts = Record<string, string>;

/** A value as its field shows it. */
export function textOf(name: keyof Spec, value: Spec[keyof Spec]): string {
  if (value === null || value === undefined) return "";
  if (Array.isArray(value)) return value.join(name === "other_numbers" ? ", " : " x ");
  return String(value);
}

/** What stands in the fields of a known panel. */
export const textsOf = (spec: Partial<Spec>): Texts =>
  Object.fromEntries(
    SPEC_FIELDS.map(({ name }) => {
      const value = spec[name];
      return [name, textOf(name, value)];
    }),
  );

const IN_MM: Record<string, number> = { mm: 1, cm: 10, in: 25.4, '"': 25.4 };

/** A number as people write it, with a comma or a point; lengths also in cm or inches. */
function asNumber(text: string): number {
  const [, digits = "", unit = ""] = /^\s*([\d.,]+)\s*(mm|cm|in|")?\s*$/i.exec(text) ?? [];
  const value = digits === "" ? NaN : Number(digits.replace(",", "."));
  return unit ? Math.round(value * (IN_MM[unit.toLowerCase()] ?? NaN) * 100) / 100 : value;
}

/** The specification that the fields mean, and the labels of those that cannot be read. */
export function specOf(texts: Texts): { spec: Spec; wrong: string[] } {
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
    } else if (kind === "list") {
      spec[name] = text
        .split(",")
        .map((part) => part.trim())
        .filter(Boolean);
    } else spec[name] = kind === "flag" ? text === "true" : text;
  }
  return { spec: { other_numbers: [], ...spec }, wrong };
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
  if (back.connector.edge) told.connector_edge = back.connector.edge;
  if (back.connector.pins) told.connector_pins = String(back.connector.pins);
  if (back.mounting) told.mounting = back.mounting;
  return told;
}

/** What a pasted line fills in. */
export function fieldsOfLine(line: DataSheetLine): Texts {
  return Object.fromEntries(Object.entries(textsOf(line.spec)).filter(([, text]) => text !== ""));
}

export interface Filled {
  texts: Texts;
  from: Partial<Record<string, PanelSource>>;
  /** Fields that kept their own value against a weaker source. */
  kept: string[];
}

/** Fill a form from a source: what is empty, or what a source that is no stronger told. */
export function fillIn(
  texts: Texts,
  from: Partial<Record<string, PanelSource>>,
  told: Texts,
  source: PanelSource,
): Filled {
  const next: Filled = { texts: { ...texts }, from: { ...from }, kept: [] };
  for (const [name, text] of Object.entries(told)) {
    const own = texts[name] ?? "";
    const before = from[name];
    if (own && own !== text && before && VALUE_SOURCES[before].strength > VALUE_SOURCES[source].strength) {
      next.kept.push(SPEC_FIELDS.find((field) => field.name === name)?.label.split(",")[0] ?? name);
      continue;
    }
    next.texts[name] = text;
    next.from[name] = source;
  }
  return next;
}

/** A panel in a few words. */
export function briefly(spec: Partial<Spec>): string {
  const size = spec.width && spec.height ? `${spec.width} x ${spec.height}` : "size unknown";
  const parts = [size, spec.signal, spec.connector_pins && `${spec.connector_pins} pins`, spec.connector_side];
  return parts.filter(Boolean).join(", ");
}

/** A choice in the words of its form; empty where it is unknown. */
export function shownOf(name: keyof Spec, spec: Partial<Spec>): string {
  const value = spec[name];
  if (value === null || value === undefined) return "";
  const choices = SPEC_FIELDS.find((field) => field.name === name)?.choices ?? [];
  return choices.find(([id]) => id === String(value))?.[1] ?? String(value);
}
