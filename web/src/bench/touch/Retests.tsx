// Re-tests: asked for at hand-over, due on a day, done at Prove, settled with a word.

import { Box, Button, Link as MuiLink, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { StateMark } from "../../theme/StateMark";
import { client, got, type Job, type Recheck } from "../api/client";
import { due, inDays, today } from "../jobs/days";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { StageBench } from "../parts/StageBench";

const REASONS = ["After the next system update", "After the adhesive has cured"];
/** Above the jobs: what is to be looked at again. */
export function DueList() {
  const list = useQuery({
    queryKey: ["rechecks"],
    queryFn: () => got<Recheck[]>(client.GET("/api/rechecks")),
    refetchInterval: 60_000,
  });
  if (!list.data?.length) return null;
  return (
    <Box
      component="section"
      aria-label="Re-tests"
      sx={{ mx: 2, mb: 2, p: 1.5, border: 1, borderColor: "divider", borderRadius: 1 }}
    >
      <Typography variant="h2">Re-tests</Typography>
      {list.data.map((one) => (
        <MuiLink
          key={one.id}
          component={Link}
          to={`/jobs/${one.job_id}/prove?part=touch`}
          underline="none"
          color="textPrimary"
          sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", minHeight: 44 }}
        >
          <StateMark state={one.due_on <= today() ? "failed" : "open"} size={16} />
          <Typography sx={{ fontWeight: 600 }}>{one.title}</Typography>
          <Typography variant="body2" color="textSecondary">
            {one.reason}, {due(one.due_on)}
          </Typography>
        </MuiLink>
      ))}
    </Box>
  );
}

/** At Prove: the re-tests that are open, and their bench. */
export function Retests({ job }: { job: Job }) {
  const [because, setBecause] = useState("");
  const settle = useJobChange<number>(job.id, (recheck_id) =>
    client.POST("/api/rechecks/{recheck_id}/settle", { params: { path: { recheck_id } }, body: { because } }),
  );
  const open = job.rechecks.filter((one) => !one.settled_at);
  const recorded = job.runs.some((run) => run.stage === "recheck");
  if (!open.length && !recorded) return null;
  return (
    <Box component="section" aria-label="Re-test" sx={{ mb: 2 }}>
      <Typography variant="h2">Re-test</Typography>
      {open.map((one) => (
        <Box key={one.id} sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", my: 1 }}>
          <Typography sx={{ flex: "1 1 100%" }}>
            {one.reason}, {due(one.due_on)} ({one.due_on}).
          </Typography>
          <TextField
            size="small"
            label="What came of it"
            value={because}
            onChange={(event) => {
              setBecause(event.target.value);
            }}
            slotProps={{ htmlInput: { maxLength: 200 } }}
            sx={{ flex: 1 }}
          />
          <Button
            variant="outlined"
            onClick={() => {
              settle.mutate(one.id);
              setBecause("");
            }}
          >
            Settled
          </Button>
        </Box>
      ))}
      <ErrorNote error={settle.error} />
      <StageBench job={job} stage="recheck" />
    </Box>
  );
}

/** At hand-over: ask for one. */
export function AskRetest({ job }: { job: Job }) {
  const [day, setDay] = useState(inDays(1));
  const [reason, setReason] = useState(REASONS[0] ?? "");
  const ask = useJobChange<{ due_on: string; reason: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/rechecks", { params: { path: { job_id: job.id } }, body }),
  );
  const open = job.rechecks.filter((one) => !one.settled_at);
  return (
    <Box component="section" aria-label="Ask for a re-test" sx={{ my: 2 }}>
      <Typography variant="h2">Look at it again later</Typography>
      <Typography variant="body2" color="textSecondary">
        Some touch fails only after a system update, or while the adhesive cures.
      </Typography>
      {open.map((one) => (
        <Typography key={one.id} sx={{ mt: 0.5 }}>
          {one.reason}, {due(one.due_on)}.
        </Typography>
      ))}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
        <TextField
          size="small"
          type="date"
          label="On"
          value={day}
          onChange={(event) => {
            setDay(event.target.value);
          }}
          slotProps={{ htmlInput: { min: today() }, inputLabel: { shrink: true } }}
          sx={{ width: 170 }}
        />
        <TextField
          size="small"
          label="Why"
          value={reason}
          onChange={(event) => {
            setReason(event.target.value);
          }}
          slotProps={{ htmlInput: { maxLength: 200, list: "retest-reasons" } }}
          sx={{ flex: "1 1 200px" }}
        />
        <datalist id="retest-reasons">
          {REASONS.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        <Button
          variant="outlined"
          disabled={!day || !reason.trim()}
          onClick={() => {
            ask.mutate({ due_on: day, reason });
          }}
        >
          Ask for a re-test
        </Button>
      </Box>
      <ErrorNote error={ask.error} />
    </Box>
  );
}
