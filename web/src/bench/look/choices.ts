// Which photos of a job can be laid over its panel, and how each is called.

import { STAGES } from "../../pane/vocabulary.gen";
import type { Job, Photo, Run } from "../api/client";

export interface LookedAt {
  photo: Photo;
  run: Run;
  name: string;
}

/** Photos that were registered to the panel, stage by stage; of several of one pattern each has its number; of an earlier job its number. */
export function lookable(job: Pick<Job, "runs">, earlier?: number): LookedAt[] {
  const whose = earlier === undefined ? "" : `Job ${earlier}, `;
  return job.runs.flatMap((run) => {
    const photos = run.photos.filter((photo) => !photo.removed && photo.report?.map && photo.report.pattern);
    const seen = new Map<string, number>();
    return photos.map((photo) => {
      const pattern = photo.report?.pattern ?? "";
      const times = (seen.get(pattern) ?? 0) + 1;
      seen.set(pattern, times);
      return { photo, run, name: `${whose}${STAGES[run.stage].title}: ${pattern}${times > 1 ? ` (${times})` : ""}` };
    });
  });
}

/** What a photo is best held against: the same pattern at another stage, the latest of them; `all` has this job's own last. */
export function counterpart(all: readonly LookedAt[], of: LookedAt): LookedAt | null {
  const same = all.filter(
    (one) =>
      one.run.id !== of.run.id &&
      one.photo.report?.pattern === of.photo.report?.pattern &&
      one.run.screen.width === of.run.screen.width &&
      one.run.screen.height === of.run.screen.height,
  );
  return same.at(-1) ?? null;
}

/** Of another screen nothing can be laid beside it. */
export const alike = (a: LookedAt, b: LookedAt): boolean =>
  a.photo.id !== b.photo.id && a.run.screen.width === b.run.screen.width && a.run.screen.height === b.run.screen.height;
