// The first job, a step a station: what is to be done there, in words, and how far it is.

import type { Job, StationId } from "../api/client";

interface Guide {
  /** What the station is for, in a sentence. */
  what: string;
  /** What to do here with the simulated device. */
  how: string;
}

export const GUIDES: Partial<Record<StationId, Guide>> = {
  intake: {
    what: "What the owner says and what can be seen from outside, before anything is opened.",
    how: "This device was taken in already: read what was written down, then go on.",
  },
  isolate: {
    what: "Where the fault comes from: one check at a time, the one that tells most for its minutes.",
    how: "Answer with the letter beside what the device shows. The likely causes change with each answer; when one stands out, go on.",
  },
  inspect: {
    what: "What is wrong with the picture, measured from photos of test patterns.",
    how: "Press 'Simulated camera: whole set' and wait until the photos are read. Choose a mark on the panel map to see why it is told.",
  },
  match: {
    what: "Which panel fits, and whom to buy it from.",
    how: "Enter the number on the panel's label under 'Panel in the device', then choose an offer that fits.",
  },
  fit: {
    what: "Open, swap, test before closing, close: no step before what it needs.",
    how: "Each step says what it wants before it can be confirmed. The dry fit wants photos of the new panel: shoot them with the simulated camera at that step.",
  },
  prove: {
    what: "That the closed device is right: picture, functions, and no worse than it came in.",
    how: "Shoot the whole set again, of the closed device this time, and answer the functions.",
  },
  hand_over: {
    what: "The report for the owner, and what it turned out to be, for the shop's own statistics.",
    how: "Read the report, say what the cause was, and hand the device over.",
  },
};
const BEHIND = ["done", "failed", "not_proven", "skipped"];

/** The station where the job stands: the first that is not behind. A device that is closed must pass, so Prove is behind with that only. */
export function stepOfFirst(stations: Job["stations"]): { station: StationId; number: number; of: number } | null {
  const guided = stations.filter((one) => GUIDES[one.id]);
  const at = guided.findIndex((one) => (one.id === "prove" ? one.state !== "done" : !BEHIND.includes(one.state)));
  const next = guided[at];
  return next ? { station: next.id, number: at + 1, of: guided.length } : null;
}
