// The page of one photo that is looked at closely; it says so where the photo cannot be laid over the panel.

import { Alert, Box, Button } from "@mui/material";
import { useMemo } from "react";
import { Link, useParams } from "react-router";
import { useJob } from "../api/job";
import { useLive } from "../api/live";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { lookable } from "./choices";
import { Looking } from "./Looking";

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
  return <Looking key={main.run.id} job={job.data} all={all} main={main} />;
}
