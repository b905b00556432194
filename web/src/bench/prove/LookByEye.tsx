// Where the device cannot show our patterns: what a person looked at. It is printed as seen, not as measured.

import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import { client, type Job, type Stage } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { useProving } from "./useProving";

type Outcome = "good" | "bad" | "cannot_tell";
const WORDS: Record<Outcome, string> = { good: "Good", bad: "Bad", cannot_tell: "Cannot tell" };
const MARKS: Record<string, State> = { good: "done", bad: "failed", cannot_tell: "not_proven" };

export function LookByEye({ job, stage }: { job: Job; stage: Stage }) {
  const proving = useProving(job.id);
  const answer = useJobChange<{ aspect: string; outcome: Outcome }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/proving/eye/{stage}", { params: { path: { job_id: job.id, stage } }, body }),
  );
  const eye = proving.data?.eye.find((one) => one.stage === stage);
  const begun = eye?.verdict !== null && eye !== undefined;
  const [asked, setAsked] = useState(false);
  if (!eye || (job.closed_at && !begun)) return null;
  if (!begun && !asked)
    return (
      <Button
        size="small"
        sx={{ mb: 1 }}
        onClick={() => {
          setAsked(true);
        }}
      >
        It cannot show the patterns: look by eye
      </Button>
    );
  return (
    <Box
      component="section"
      aria-label="By eye"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, mb: 1.5 }}
    >
      <Typography variant="h2">By eye</Typography>
      <Typography variant="body2" color="textSecondary">
        It counts as seen, not as measured, and the report says so.
      </Typography>
      <ErrorNote error={answer.error} />
      {eye.aspects.map((aspect) => (
        <Box key={aspect.id} role="group" aria-label={aspect.title} sx={{ mt: 1 }}>
          <Box sx={{ display: "flex", gap: 1 }}>
            <StateMark state={aspect.answer ? (MARKS[aspect.answer.outcome] ?? "open") : "open"} />
            <Typography>{aspect.title}</Typography>
          </Box>
          {!job.closed_at && (
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5, pl: 3.25 }}>
              {(Object.keys(WORDS) as Outcome[]).map((outcome) => (
                <Button
                  key={outcome}
                  size="small"
                  variant={aspect.answer?.outcome === outcome ? "contained" : "outlined"}
                  sx={{ minHeight: 40 }}
                  onClick={() => {
                    answer.mutate({ aspect: aspect.id, outcome });
                  }}
                >
                  {WORDS[outcome]}
                </Button>
              ))}
            </Box>
          )}
        </Box>
      ))}
    </Box>
  );
}
