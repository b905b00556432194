// What is typed about the screws of a step, and what of it is sent.

export interface FastenerTexts {
  met?: string;
  loosened?: string;
  replaced?: string;
  lost?: string;
  lost_inside?: string;
  left_out?: string;
  length_mm?: string;
}
type Elsewhere = "loosened" | "replaced" | "lost" | "lost_inside" | "left_out";
export type FastenerState = Record<Elsewhere, number> & { length_mm: number | null };

/** `back`: asked for where screws go back; the others where they come out. */
export const FASTENER_STATES: readonly { id: Elsewhere; title: string; back: boolean }[] = [
  { id: "loosened", title: "Only loosened", back: false },
  { id: "replaced", title: "Replaced", back: true },
  { id: "lost", title: "Lost outside", back: true },
  { id: "lost_inside", title: "Lost inside", back: true },
  { id: "left_out", title: "Left out", back: true },
];

/** A whole number of things; null where it is none, or where nothing was entered. */
export const whole = (text: string): number | null => (/^\d{1,3}$/.test(text.trim()) ? Number(text.trim()) : null);

/** What is said beside the count; null where a field cannot be read. */
export function stateOf(texts: FastenerTexts): FastenerState | null {
  const told = {} as Record<Elsewhere, number>;
  for (const { id } of FASTENER_STATES) {
    const text = (texts[id] ?? "").trim();
    const count = text === "" ? 0 : whole(text);
    if (count === null) return null;
    told[id] = count;
  }
  const length = (texts.length_mm ?? "").trim().replace(",", ".");
  if (length !== "" && !/^\d{1,2}(\.\d{1,2})?$/.test(length)) return null;
  return { ...told, length_mm: length === "" ? null : Number(length) };
}

/** Whether anything beside the count was said. */
export const says = (state: FastenerState): boolean =>
  Object.values(state).some((value) => value !== null && value !== 0);
