// The external screen as a witness: the same patterns on both, photographed, compared place by place.

import { Alert, Box, Button, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { Pane } from "../../pane/Pane";
import { client, type Job, type Run } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { Capture } from "./Capture";
import { PhotoBench } from "../parts/PhotoBench";

const OUTCOMES: Record<string, "success" | "warning" | "info"> = {
  clean: "success",
  same_fault: "warning",
  partly: "warning",
  not_proven: "info",
};

function Size({ run, closed }: { run: Run; closed: boolean }) {
  const [width, setWidth] = useState(String(run.screen.width));
  const [height, setHeight] = useState(String(run.screen.height));
  const change = useJobChange<{ width: number; height: number }>(run.job_id, (body) =>
    client.POST("/api/runs/{run_id}/screen", { params: { path: { run_id: run.id } }, body }),
  );
  const same = Number(width) === run.screen.width && Number(height) === run.screen.height;
  return (
    <Box
      component="form"
      sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        if (!same) change.mutate({ width: Number(width), height: Number(height) });
      }}
    >
      <TextField
        label="Its pixels across"
        value={width}
        disabled={closed}
        onChange={(event) => {
          setWidth(event.target.value);
        }}
        sx={{ width: 140 }}
        slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 5 } }}
      />
      <TextField
        label="and down"
        value={height}
        disabled={closed}
        onChange={(event) => {
          setHeight(event.target.value);
        }}
        sx={{ width: 110 }}
        slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 5 } }}
      />
      <Button type="submit" variant="outlined" disabled={same || closed}>
        Set
      </Button>
      <ErrorNote error={change.error} />
    </Box>
  );
}

function TwoPanes({ job }: { job: Job }) {
  const panes = (["inspect", "external"] as const).map((stage) => job.runs.find((run) => run.stage === stage));
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1, my: 1 }}>
      {panes.map(
        (run, n) =>
          run?.result && (
            <Box key={run.id} component="figure" sx={{ m: 0 }}>
              <Pane
                panel={run.screen}
                findings={run.result.findings}
                unproven={run.result.unproven_cells ?? []}
                maxHeight="24vh"
                label={`${n ? "External screen" : "Panel"}: ${run.result.findings.length} findings`}
              />
              <Typography component="figcaption" variant="body2" color="textSecondary">
                {n ? "External screen" : "Panel"}
              </Typography>
            </Box>
          ),
      )}
    </Box>
  );
}

export function External({ job }: { job: Job }) {
  const run = job.runs.find((one) => one.stage === "external");
  const [open, setOpen] = useState(false);
  const panel = job.runs.find((one) => one.stage === "inspect");
  const { witness } = job;
  return (
    <Box component="section" aria-label="External screen" sx={{ mt: 2 }}>
      <Typography variant="h2">External screen</Typography>
      {witness && (
        <Alert severity={OUTCOMES[witness.outcome] ?? "info"} variant="outlined" icon={false} sx={{ my: 0.5 }}>
          {witness.text}
        </Alert>
      )}
      {witness && <TwoPanes job={job} />}
      <Button
        size="small"
        variant="outlined"
        aria-expanded={open}
        onClick={() => {
          setOpen(!open);
        }}
      >
        {open ? "Close it" : run ? "Go on with it" : "Measure it"}
      </Button>
      {open && (
        <Box sx={{ mt: 1 }}>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
            Open its glass on the external screen: both glasses then show the same pattern. Photograph the same patterns
            of both.
          </Typography>
          {run && <Size key={`${run.screen.width}x${run.screen.height}`} run={run} closed={Boolean(job.closed_at)} />}
          {run && <Capture job={job} run={run} />}
          <PhotoBench job={job} stage="external" inStepWith={panel?.id} />
        </Box>
      )}
    </Box>
  );
}
