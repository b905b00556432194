// Cost against day: where each offer's dot stands.

import type { RankedOffer } from "../api/client";

export interface Dot {
  id: number;
  x: number;
  y: number;
  best: boolean;
  cost: number;
  day: string;
}
const DAY_MS = 86_400_000;

/** Offers that can be compared, as places in a box of that size: later to the right, dearer upwards. */
export function dotsOf(ranked: readonly RankedOffer[], width: number, height: number): Dot[] {
  const known = ranked.flatMap((one) =>
    one.cost !== null && one.ready_on ? [{ ...one, price: Number(one.cost), at: Date.parse(one.ready_on) }] : [],
  );
  const days = known.map((one) => one.at);
  const prices = known.map((one) => one.price);
  const [first, last] = [Math.min(...days), Math.max(...days)];
  const [low, high] = [Math.min(...prices), Math.max(...prices)];
  return known.map((one) => ({
    id: one.offer_id,
    x: (width * (one.at - first)) / Math.max(DAY_MS, last - first),
    y: height * (1 - (one.price - low) / Math.max(1, high - low)),
    best: one.best,
    cost: one.price,
    day: one.ready_on ?? "",
  }));
}
