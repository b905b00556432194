// The page of one photo that is looked at closely; it says so where the photo cannot be laid over the panel.

import { Alert, Box, Button } from "@mui/material";
import { useMemo } from "react";
import { Link, useParams } from "react-router";
import type { Job } from "../api/client";
import { useJob, useRunsOf } from "../api/job";
import { useLive } from "../api/live";
import { useBefore } from "../intake/Before";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { lookable, type LookedAt } from "./choices";
import { Looking } from "./Looking";

/** Every earlier job costs a request with all its findings. */
const MOST_EARLIER = 2;
const NONE: readonly number[] = [];

export function PhotoLook() {
  const { id, photo } = useParams();
  const job = useJob(Number(id));
  useLive(Number(id));
  const all = useMemo(() => (job.data ? lookable(job.data) : []), [job.data]);
  if (job.isPending) return <Waiting words="Loading the photos" />;
  if (!job.data) return <ErrorNote error={job.error} onRetry={() => void job.refetch()} />;
  const main = all.find((one) => String(one.photo.id) === photo);
  if (!main)
    return (
      <Box sx={{ p: 2 }}>
        {all.length ? (
          <Alert severity="info" variant="outlined">
            This photo cannot be laid over the panel: it was taken out, or not registered.{" "}
            <Link to={`/jobs/${job.data.id}/photos/${all[0]?.photo.id}`}>Look at {all[0]?.name}</Link>
          </Alert>
        ) : (
          <Empty>No photo of this job is registered to the panel yet. Photograph the patterns at Inspect first.</Empty>
        )}
        <Button component={Link} to={`/jobs/${job.data.id}`}>
          Back to job {job.data.id}
        </Button>
      </Box>
    );
  return <WithEarlier key={main.run.id} job={job.data} all={all} main={main} />;
}

/** What the same device looked like when it was here before can be held against it. */
function WithEarlier({ job, all, main }: { job: Job; all: LookedAt[]; main: LookedAt }) {
  const earlier = useBefore(job).data?.earlier;
  const ids = useMemo(
    () =>
      earlier
        ?.filter((one) => one.how === "serial")
        .map((one) => one.job_id)
        .slice(0, MOST_EARLIER) ?? NONE,
    [earlier],
  );
  const runs = useRunsOf(ids);
  const against = useMemo(
    () => [...ids.flatMap((id, n) => lookable({ runs: runs[n] ?? [] }, id)), ...all],
    [ids, runs, all],
  );
  return <Looking job={job} all={all} against={against} main={main} />;
}
