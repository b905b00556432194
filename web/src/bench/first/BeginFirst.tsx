// In the demo, on Today: begin the first job, or go on with it.

import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { client, got } from "../api/client";
import { useMe } from "../api/hooks";
import { ErrorNote } from "../parts/notes";
import { usePractice } from "./practice";

export function BeginFirst() {
  const demo = useMe().data?.demo ?? false;
  const practice = usePractice(demo);
  const go = useNavigate();
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: () => got<{ job_id: number }>(client.POST("/api/practice")),
    onSuccess: ({ job_id }) => {
      void queries.invalidateQueries({ queryKey: ["practice"] });
      void go(`/jobs/${job_id}`);
    },
  });
  if (!demo || !practice.data || practice.data.done) return null;
  return (
    <Box
      component="section"
      aria-label="First job"
      sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", px: 2, mb: 2 }}
    >
      <Box sx={{ flex: "1 1 280px" }}>
        <Typography variant="h2">New here?</Typography>
        <Typography variant="body2" color="textSecondary">
          One job from intake to hand-over on a simulated laptop, step by step, in about ten minutes.
        </Typography>
        <ErrorNote error={begin.error} />
      </Box>
      <Button
        variant="outlined"
        disabled={begin.isPending}
        onClick={() => {
          begin.mutate();
        }}
      >
        {practice.data.job_id ? "Go on with the first job" : "Begin the first job"}
      </Button>
    </Box>
  );
}
