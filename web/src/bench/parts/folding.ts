// What is not of the panel and comes in heaps (hot photosites of a phone in the dark, grains of dust) is one line of the list until it is asked for.

import type { Finding } from "../api/client";

/** Kinds that are folded, and whether their marks stay on the panel map: grains must be found to be wiped off, a camera's own dots need not. */
const FOLDED: Readonly<Record<string, { marked: boolean }>> = { camera: { marked: false }, dust: { marked: true } };
const MOST_LISTED = 4;

/** By kind the indices of the findings that are folded: more of a kind than are listed one by one, decided ones stay. */
export function foldedOf(findings: readonly Finding[], unfolded: ReadonlySet<string>): Map<string, number[]> {
  const heaps = new Map<string, number[]>();
  findings.forEach((finding, index) => {
    if (FOLDED[finding.kind] && !finding.decision && !unfolded.has(finding.kind))
      heaps.set(finding.kind, [...(heaps.get(finding.kind) ?? []), index]);
  });
  return new Map([...heaps].filter(([, indices]) => indices.length > MOST_LISTED));
}

/** Indices whose marks are not drawn while they are folded. */
export function unmarkedOf(folded: ReadonlyMap<string, readonly number[]>): ReadonlySet<number> {
  return new Set([...folded].flatMap(([kind, indices]) => (FOLDED[kind]?.marked ? [] : indices)));
}
