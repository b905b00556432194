// Fit: how the display is built in, what may come next, what is loose, and the way back.

import { Alert, Box, Button, ButtonBase, Typography } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import { client, got, type FitState, type Job } from "../api/client";
import { useWhen } from "../api/hooks";
import { useJobChange } from "../api/job";
import { ReplacementEdid } from "../isolate/EdidCard";
import { useKeys } from "../keys/useKeys";
import { ErrorNote, Key, Waiting } from "../parts/notes";
import { StageBench } from "../parts/StageBench";
import { Lessons } from "../intake/Before";
import { LookByEye } from "../prove/LookByEye";
import { TouchChoice } from "../touch/TouchChoice";
import { BuildChoice } from "./BuildChoice";
import { leftWords, notesWords } from "./notes";
import { OneStep } from "./OneStep";
import { OtherWays } from "./OtherWays";
import { StepPhotos } from "./StepPhotos";
import { StepGraph } from "./StepGraph";
import { LooseThings } from "./LooseThings";
import { StepWork, type Doing } from "./StepWork";

type StepOut = FitState["steps"][number];
const MARKS: Record<StepOut["state"], State> = { done: "done", open: "active", blocked: "open", left_out: "skipped" };

function GoingBack({ back }: { back: StepOut["back"] }) {
  if (!back || (back.takes.length === 0 && back.tests.length === 0)) return null;
  return (
    <Typography variant="body2" color="textSecondary">
      {back.takes.length > 0 && `It takes back too: ${back.takes.join(", ").toLowerCase()}. `}
      {back.tests.length > 0 && `To be tested again: ${back.tests.join("; ").toLowerCase()}`}
    </Typography>
  );
}

function StepRow({
  entry,
  state,
  job,
  open,
  onOpen,
  onDo,
  onBack,
}: {
  entry: StepOut;
  state: FitState;
  job: Job;
  open: boolean;
  onOpen: () => void;
  onDo: (doing: Doing) => void;
  onBack: () => void;
}) {
  const when = useWhen();
  const { step } = entry;
  const counted = Object.entries(entry.counts).map(([group, count]) => `${count} ${group.replaceAll("_", " ")} screws`);
  const said = [
    entry.choice ? (step.choices?.[entry.choice] ?? entry.choice) : "",
    ...counted,
    ...notesWords(entry.notes, state),
  ].filter(Boolean);
  const clock = state.clocks.find((one) => one.step === step.id && one.left_s > 0);
  return (
    <Box
      id={`step-${step.id}`}
      component="section"
      aria-label={step.title}
      sx={{ borderTop: 1, borderColor: "divider" }}
    >
      <ButtonBase
        aria-expanded={open}
        onClick={onOpen}
        sx={{
          width: "100%",
          minHeight: 44,
          py: 0.5,
          display: "grid",
          gridTemplateColumns: "18px minmax(0, 1fr) auto",
          columnGap: 1,
          alignItems: "center",
          textAlign: "left",
          opacity: entry.state === "left_out" ? 0.6 : 1,
        }}
      >
        <StateMark state={MARKS[entry.state]} />
        <Box>
          <Typography component="h2" sx={{ fontWeight: entry.state === "open" ? 600 : 400 }}>
            {step.title}
          </Typography>
          {entry.state === "done" && said.length > 0 && (
            <Typography variant="body2" color="textSecondary">
              {said.join(", ")}
            </Typography>
          )}
        </Box>
        <Typography variant="body2" color="textSecondary">
          {clock && entry.state === "done"
            ? `${clock.title.toLowerCase()}, ${leftWords(clock.left_s)}`
            : entry.state !== "done" && step.minutes
              ? `${step.minutes} min`
              : ""}
        </Typography>
      </ButtonBase>
      {open && (
        <Box sx={{ pl: 3.25, pb: 1.5 }}>
          {entry.state === "done" && (
            <>
              <Typography variant="body2" color="textSecondary">
                {said.length > 0 ? `${said.join(", ")}. ` : ""}
                {entry.done_by}, {entry.done_at ? when(entry.done_at) : ""}
                {entry.reason ? `. ${entry.inspection ? "Not proven: " : ""}${entry.reason}` : ""}
              </Typography>
              {!job.closed_at && (
                <>
                  <Button size="small" onClick={onBack}>
                    Go back here
                  </Button>
                  <GoingBack back={entry.back} />
                </>
              )}
            </>
          )}
          {entry.state === "left_out" && <Typography variant="body2">Another way was chosen.</Typography>}
          {entry.state === "blocked" && (
            <Typography variant="body2" color="warning" sx={{ mb: 1 }}>
              {entry.blocked}
            </Typography>
          )}
          {entry.state !== "done" && entry.state !== "left_out" && (
            <StepWork key={step.id} entry={entry} state={state} closed={Boolean(job.closed_at)} onDo={onDo}>
              {entry.inspection === "dry_fit" && entry.state === "open" && (
                <Box sx={{ my: 1 }}>
                  <TouchChoice job={job} />
                  <LookByEye job={job} stage="dry_fit" />
                  <StageBench job={job} stage="dry_fit" />
                </Box>
              )}
            </StepWork>
          )}
          {entry.state !== "left_out" && <StepPhotos job={job} state={state} step={step.id} />}
        </Box>
      )}
    </Box>
  );
}

export function Fit({ job }: { job: Job }) {
  const path = { params: { path: { job_id: job.id } } };
  const state = useQuery({
    queryKey: ["job", job.id, "fit"],
    queryFn: () => got<FitState>(client.GET("/api/jobs/{job_id}/fit", path)),
  });
  const [opened, setOpened] = useState<string | null>(null);
  const [large, setLarge] = useState(false);
  const [overview, setOverview] = useState(false);
  const queries = useQueryClient();
  const act = useJobChange<Doing>(job.id, (body) => client.POST("/api/jobs/{job_id}/fit/gates", { ...path, body }));
  const back = useJobChange<string>(job.id, (gate_id) =>
    client.DELETE("/api/jobs/{job_id}/fit/gates/{gate_id}", { params: { path: { job_id: job.id, gate_id } } }),
  );
  const newer = useJobChange<null>(job.id, () => client.POST("/api/jobs/{job_id}/fit/newer", path));
  const clocksChanged = () => {
    void queries.invalidateQueries({ queryKey: ["clocks"] });
  };
  const oneByOne = () => {
    setLarge(true);
  };
  const ready = Boolean(state.data?.title) && !job.closed_at && !large;
  useKeys({ g: ready ? oneByOne : undefined });
  const powered = useJobChange<null>(job.id, () => client.POST("/api/jobs/{job_id}/fit/powered", path));
  if (state.isPending) return <Waiting words="Loading the procedure" />;
  if (!state.data) return <ErrorNote error={state.error} onRetry={() => void state.refetch()} />;
  const { steps, title } = state.data;
  const next = steps.find((entry) => entry.state === "open");
  const shown = opened ?? next?.step.id;
  const done = steps.filter((entry) => entry.state === "done").length;
  const asked = steps.filter((entry) => entry.state !== "left_out").length;
  const closed = Boolean(job.closed_at);
  return (
    <Box>
      <Typography color="textSecondary" sx={{ mb: 1 }}>
        {title && `${title}. `}
        {title && `${done} of ${asked} steps, about ${Math.round(state.data.minutes_left)} minutes of work left. `}
        Local rules and licensed practice come first.
      </Typography>
      {job.device_type === "all_in_one" && (
        <Alert severity="error" variant="outlined" sx={{ mb: 1 }}>
          Mains-powered set: its power board is dangerous even unplugged. Qualified people only.
        </Alert>
      )}
      {state.data.newer && !job.closed_at && (
        <Alert
          severity="info"
          variant="outlined"
          sx={{ mb: 1 }}
          action={
            <Button
              color="inherit"
              disabled={newer.isPending}
              onClick={() => {
                newer.mutate(null);
              }}
            >
              Follow it
            </Button>
          }
        >
          This procedure was changed since the job began it. The job keeps its version.
        </Alert>
      )}
      <Lessons job={job} />
      <BuildChoice job={job} state={state.data} />
      <ErrorNote
        error={act.error ?? back.error ?? powered.error ?? newer.error}
        onClose={() => {
          act.reset();
          back.reset();
          powered.reset();
          newer.reset();
        }}
      />
      {ready && (
        <Button variant="outlined" sx={{ mb: 1 }} onClick={oneByOne}>
          One step a screen&nbsp;<Key>G</Key>
        </Button>
      )}
      {large && (
        <OneStep
          job={job}
          state={state.data}
          error={act.error}
          onDo={(doing) => {
            act.mutate(doing, { onSuccess: clocksChanged });
          }}
          onClose={() => {
            setLarge(false);
          }}
        />
      )}
      {title && (
        <Button
          size="small"
          aria-expanded={overview}
          onClick={() => {
            setOverview(!overview);
          }}
        >
          {overview ? "Steps as a list only" : "Overview of all steps"}
        </Button>
      )}
      {overview && (
        <StepGraph
          steps={steps}
          onOpen={(id) => {
            setOpened(id);
            window.setTimeout(() => document.getElementById(`step-${id}`)?.scrollIntoView({ block: "start" }), 50);
          }}
        />
      )}
      {title && <LooseThings job={job} state={state.data} />}
      {steps.map((entry) => (
        <StepRow
          key={entry.step.id}
          entry={entry}
          state={state.data}
          job={job}
          open={entry.step.id === shown}
          onOpen={() => {
            setOpened(shown === entry.step.id ? "" : entry.step.id);
          }}
          onDo={(doing) => {
            act.mutate(doing, {
              onSuccess: () => {
                clocksChanged();
                setOpened(null);
              },
            });
          }}
          onBack={() => {
            back.mutate(entry.step.id, { onSuccess: clocksChanged });
            setOpened(null);
          }}
        />
      ))}
      {!title && (
        <>
          <TouchChoice job={job} />
          <StageBench job={job} stage="dry_fit" />
        </>
      )}
      <OtherWays job={job} state={state.data} />
      {title && !closed && (
        <Button
          sx={{ mt: 1 }}
          onClick={() => {
            powered.mutate(null);
          }}
        >
          It was switched on meanwhile
        </Button>
      )}
      {state.data.way_back.length > 0 && (
        <Box component="details" sx={{ mt: 1 }}>
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" }}>
            Put it back for now: the way back from here
          </Box>
          <Box component="ol" sx={{ pl: 2.5, my: 0 }}>
            {state.data.way_back.map((one) => (
              <li key={one}>
                <Typography variant="body2">Take back: {one}</Typography>
              </li>
            ))}
          </Box>
        </Box>
      )}
      <ReplacementEdid job={job} />
      {title && done === asked && (
        <Typography sx={{ mt: 1, fontWeight: 600 }}>All steps are done. Prove the closed device next.</Typography>
      )}
    </Box>
  );
}
