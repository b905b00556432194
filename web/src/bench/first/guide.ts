// The first job, a step a station that has words for it (stations/registry): how far it is.

import type { Job, StationId } from "../api/client";

export interface Guide {
  /** What the station is for, in a sentence. */
  what: string;
  /** What to do here with the simulated device. */
  how: string;
}

const BEHIND = ["done", "failed", "not_proven", "skipped"];

/** The station where the job stands: the first that is not behind. A device that is closed must pass, so Prove is behind with that only. */
export function stepOfFirst(
  stations: Job["stations"],
  guides: Partial<Record<StationId, Guide>>,
): { station: StationId; number: number; of: number } | null {
  const guided = stations.filter((one) => guides[one.id]);
  const at = guided.findIndex((one) => (one.id === "prove" ? one.state !== "done" : !BEHIND.includes(one.state)));
  const next = guided[at];
  return next ? { station: next.id, number: at + 1, of: guided.length } : null;
}
