// What a line of a list says of a job's verdict.

import { STAGES } from "../../pane/vocabulary.gen";
import type { JobLine, Stage } from "../api/client";

/** The stages that are judged, the last one first; the order of a stored object's keys says nothing. */
const LAST_FIRST = (Object.keys(STAGES) as Stage[]).filter((stage) => STAGES[stage].judged).reverse();

/** The one verdict of the device as it goes; before anything was measured on it, that of the last stage that was. */
export function verdictOf(job: Pick<JobLine, "verdict" | "stages">): { title: string; result: string } | null {
  if (job.verdict) return { title: "Verdict", result: job.verdict };
  const last = LAST_FIRST.find((stage) => job.stages[stage]);
  return last ? { title: STAGES[last].title, result: job.stages[last] ?? "" } : null;
}
