import { Alert, Box, Button, FormControlLabel, Radio, RadioGroup, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { StateMark } from "../../theme/StateMark";
import { client, got, type FitState, type Job } from "../api/client";
import { useWhen } from "../api/hooks";
import { useJobChange } from "../api/job";
import { ReplacementEdid } from "../isolate/EdidCard";
import { ErrorNote, Waiting } from "../parts/notes";
import { StageBench } from "../parts/StageBench";
import { TouchChoice } from "../touch/TouchChoice";

type GateOut = FitState["gates"][number];

function GateCard({
  entry,
  job,
  next,
  onPass,
  onBack,
}: {
  entry: GateOut;
  job: Job;
  next: boolean;
  onPass: (choice: string, reason: string) => void;
  onBack: () => void;
}) {
  const { gate } = entry;
  const when = useWhen();
  const [choice, setChoice] = useState("");
  const [reason, setReason] = useState("");
  const stopped = Boolean(entry.blocked) && !(entry.with_reason && reason.trim());
  const choices = Object.entries(gate.choices ?? {});
  const passed = entry.passed_at !== null;
  return (
    <Box component="section" aria-label={gate.title} sx={{ borderTop: 1, borderColor: "divider", py: 1.25 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={passed ? "done" : next ? "active" : "open"} />
        <Typography variant="h2" component="h2">
          {gate.title}
        </Typography>
        {passed && !job.closed_at && (
          <Button size="small" sx={{ ml: "auto" }} onClick={onBack}>
            Go back here
          </Button>
        )}
      </Box>
      {passed && (
        <Typography variant="body2" color="textSecondary">
          {entry.choice ? `${gate.choices?.[entry.choice] ?? entry.choice}. ` : ""}
          {entry.passed_by}, {when(entry.passed_at as string)}
          {entry.reason && `. Not proven: ${entry.reason}`}
        </Typography>
      )}
      {next && (
        <>
          <Box component="ol" sx={{ pl: 2.5, my: 1 }}>
            {gate.steps.map((step) => (
              <li key={step}>
                <Typography>{step}</Typography>
              </li>
            ))}
          </Box>
          {gate.caution && (
            <Alert severity="warning" variant="outlined" sx={{ mb: 1 }}>
              {gate.caution}
            </Alert>
          )}
          {choices.length > 0 && (
            <RadioGroup
              value={choice}
              onChange={(_, value) => {
                setChoice(value);
              }}
              aria-label={gate.title}
            >
              {choices.map(([id, title]) => (
                <FormControlLabel key={id} value={id} control={<Radio />} label={title} />
              ))}
            </RadioGroup>
          )}
          {gate.needs_inspection && (
            <Box sx={{ my: 1 }}>
              <TouchChoice job={job} />
              <StageBench job={job} stage="dry_fit" />
            </Box>
          )}
          {entry.blocked && (
            <Typography variant="body2" color="warning" sx={{ mb: 1 }}>
              {entry.blocked}
            </Typography>
          )}
          {entry.with_reason && !job.closed_at && (
            <TextField
              label="Why go on without proof"
              value={reason}
              onChange={(event) => {
                setReason(event.target.value);
              }}
              slotProps={{ htmlInput: { maxLength: 300 } }}
              sx={{ mb: 1 }}
            />
          )}
          {!job.closed_at && (
            <Button
              variant="contained"
              disabled={stopped || (choices.length > 0 && !choice)}
              onClick={() => {
                onPass(choice, reason);
              }}
            >
              Confirm: {gate.title.toLowerCase()}
            </Button>
          )}
        </>
      )}
    </Box>
  );
}

export function Fit({ job }: { job: Job }) {
  const state = useQuery({
    queryKey: ["job", job.id, "fit"],
    queryFn: () => got<FitState>(client.GET("/api/jobs/{job_id}/fit", { params: { path: { job_id: job.id } } })),
  });
  const pass = useJobChange<{ gate: string; choice: string; reason: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/fit/gates", { params: { path: { job_id: job.id } }, body }),
  );
  const back = useJobChange<string>(job.id, (gate_id) =>
    client.DELETE("/api/jobs/{job_id}/fit/gates/{gate_id}", { params: { path: { job_id: job.id, gate_id } } }),
  );
  if (state.isPending) return <Waiting words="Loading the procedure" />;
  if (!state.data) return <ErrorNote error={state.error} onRetry={() => void state.refetch()} />;
  const next = state.data.gates.find((entry) => entry.passed_at === null)?.gate.id;
  return (
    <Box>
      <Typography color="textSecondary" sx={{ mb: 1 }}>
        {state.data.title && `${state.data.title}. `}Local rules and licensed practice come first.
      </Typography>
      {job.device_type === "all_in_one" && (
        <Alert severity="error" variant="outlined" sx={{ mb: 1 }}>
          Mains-powered set: its power board is dangerous even unplugged. Qualified people only.
        </Alert>
      )}
      <ErrorNote
        error={pass.error ?? back.error}
        onClose={() => {
          pass.reset();
          back.reset();
        }}
      />
      {state.data.gates.map((entry) => (
        <GateCard
          key={entry.gate.id}
          entry={entry}
          job={job}
          next={entry.gate.id === next}
          onPass={(choice, reason) => {
            pass.mutate({ gate: entry.gate.id, choice, reason });
          }}
          onBack={() => {
            back.mutate(entry.gate.id);
          }}
        />
      ))}
      {!state.data.title && (
        <>
          <Alert severity="info" variant="outlined" sx={{ mb: 1 }}>
            There is no procedure for this device yet. Work by the maker&apos;s documents: power off first, and test the
            new panel before anything is glued or closed.
          </Alert>
          <TouchChoice job={job} />
          <StageBench job={job} stage="dry_fit" />
        </>
      )}
      <ReplacementEdid job={job} />
      {!next && state.data.title && (
        <Typography sx={{ mt: 1, fontWeight: 600 }}>All gates are passed. Prove the closed device next.</Typography>
      )}
    </Box>
  );
}
