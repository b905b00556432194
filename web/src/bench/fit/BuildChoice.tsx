// How the display is built in: asked once for a job, remembered for the device.

import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { client, type FitState, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { BuildFinder } from "./BuildFinder";

export function BuildChoice({ job, state }: { job: Job; state: FitState }) {
  const [changing, setChanging] = useState(false);
  const [left, setLeft] = useState<readonly string[] | null>(null);
  const choose = useJobChange<string>(job.id, (build) =>
    client.POST("/api/jobs/{job_id}/fit/build", { params: { path: { job_id: job.id } }, body: { build } }),
  );
  if (job.closed_at) return null;
  const asking = !state.title || changing;
  if (!asking)
    return state.builds.length > 1 && state.way_back.length === 0 ? (
      <Button
        size="small"
        sx={{ mb: 1 }}
        onClick={() => {
          setChanging(true);
        }}
      >
        It is built in another way
      </Button>
    ) : null;
  return (
    <Box component="section" aria-label="How it is built in" sx={{ mb: 2 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        How is the display built in?
      </Typography>
      {state.builds.length > 1 && <BuildFinder job={job} onLeft={setLeft} />}
      {left && left.length < state.builds.length && (
        <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
          {left.length === 1 ? "It is this one:" : "Left:"}
        </Typography>
      )}
      <Box sx={{ display: "grid", gap: 1 }}>
        {state.builds
          .filter((build) => !left || build.own || left.includes(build.id))
          .map((build) => (
            <Button
              key={build.id}
              variant="outlined"
              disabled={choose.isPending}
              sx={{ justifyContent: "flex-start", textAlign: "left", py: 1 }}
              onClick={() => {
                choose.mutate(build.id, {
                  onSuccess: () => {
                    setChanging(false);
                  },
                });
              }}
            >
              <Box>
                <Typography sx={{ fontWeight: 600 }}>
                  {build.title}
                  {build.own ? " (our own)" : ""}
                </Typography>
                <Typography variant="body2" color="textSecondary">
                  Opened from: {build.opened_from}. Held by: {build.held_by}.
                </Typography>
              </Box>
            </Button>
          ))}
      </Box>
      <ErrorNote error={choose.error} />
    </Box>
  );
}
