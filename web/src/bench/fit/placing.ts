// Screws tapped onto the drawing of a device, or onto a photo of it.

import type { FitState } from "../api/client";

export type Spot = FitState["fasteners"][string]["spots"][number];
const NEAR = 0.03; // shares of the longer side: a finger beside a screw means that screw
export const MOST_SPOTS = 60;
const NEXT_HOLE: Record<Spot["hole"], Spot["hole"] | null> = { "": "inner", inner: "outer", outer: null };

/** A tap adds a screw; a tap on one makes it a look-alike hole, inner, then outer, and a third takes it away. */
export function tapped(spots: readonly Spot[], x: number, y: number, aspect: number): Spot[] {
  const distance = (one: Spot) => Math.hypot(one.x - x, (one.y - y) * aspect) / Math.max(1, aspect);
  const nearest = spots.reduce<Spot | null>(
    (best, one) => (distance(one) < NEAR && (!best || distance(one) < distance(best)) ? one : best),
    null,
  );
  const round = (value: number) => Math.round(Math.min(Math.max(value, 0), 1) * 1000) / 1000;
  if (!nearest) return spots.length >= MOST_SPOTS ? [...spots] : [...spots, { x: round(x), y: round(y), hole: "" }];
  return spots.flatMap((one) => {
    if (one !== nearest) return [one];
    const hole = NEXT_HOLE[one.hole];
    return hole === null ? [] : [{ ...one, hole }];
  });
}

/** The photos onto which screws can be marked: those of this job's steps, and any on which they were. */
export function photosOf(state: Pick<FitState, "notes" | "fasteners">): number[] {
  const ids = [
    ...state.notes.map((note) => note.photo_id ?? null),
    ...Object.values(state.fasteners).map((group) => group.photo_id ?? null),
  ];
  return [...new Set(ids.filter((id) => id !== null))];
}

/** Every group, but with places only where they are places of this picture: a photo, or the drawing. */
export function placedOn(groups: FitState["fasteners"], photo: number | null): FitState["fasteners"] {
  return Object.fromEntries(
    Object.entries(groups).map(([id, group]) => [
      id,
      (group.photo_id ?? null) === photo ? group : { ...group, spots: [] },
    ]),
  );
}
