import type { Job, Stage, Touch } from "../api/client";

/** The session of a stage that counts. */
export const currentTouch = (job: Job, stage: Stage): Touch | undefined =>
  job.touches.filter((one) => one.stage === stage && one.status !== "withdrawn").at(-1);
