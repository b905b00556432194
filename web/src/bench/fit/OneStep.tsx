// One step a screen in large type, for gloved hands and foot pedals: space does it, arrows look ahead and back.

import { Box, Button, Dialog, Typography } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import type { FitState, Job } from "../api/client";
import { ErrorNote, Key } from "../parts/notes";
import { typing } from "../keys/typing";
import { FitDrawing } from "./FitDrawing";
import { canSpeak, silence, speak } from "./speech";
import { StepPhotos } from "./StepPhotos";
import { StepWork, type Doing } from "./StepWork";
import { useWakeLock } from "./useWakeLock";

type Entry = FitState["steps"][number];
const LARGE = {
  "& .MuiTypography-root": { fontSize: "1.25rem", lineHeight: 1.45 },
  "& .MuiButton-root": { minHeight: 52, fontSize: "1.05rem" },
};

/** Where things sit is drawn beside steps that pry, cut or take screws. */
const placed = (entry: Entry): boolean =>
  Object.keys(entry.step.counts ?? {}).length > 0 || (entry.step.hazards ?? []).some((one) => one === "flex");

/** What is told of a step before the hand is there. */
function ahead(steps: readonly Entry[], at: number): string {
  const next = steps.slice(at + 1).find((entry) => entry.state !== "done" && entry.state !== "left_out");
  if (!next) return "";
  const caution = next.cautions[0] ? ` ${next.cautions[0]}` : "";
  return `Next: ${next.step.title}.${caution}`;
}

export function OneStep({
  job,
  state,
  error,
  onDo,
  onClose,
}: {
  job: Job;
  state: FitState;
  error: unknown;
  onDo: (doing: Doing) => void;
  onClose: () => void;
}) {
  useWakeLock();
  const body = useRef<HTMLDivElement>(null);
  const steps = state.steps.filter((entry) => entry.state !== "left_out");
  const open = Math.max(
    steps.findIndex((entry) => entry.state === "open"),
    0,
  );
  // the step that was turned to, as long as the one in hand is the same
  const [turned, setTurned] = useState<{ open: number; at: number } | null>(null);
  const at = turned?.open === open ? turned.at : open;
  const entry = steps[at];
  const turn = (by: number) => {
    setTurned({ open, at: Math.min(Math.max(at + by, 0), steps.length - 1) });
  };
  const say = () => {
    if (entry) speak([entry.step.title, ...entry.cautions, ...(entry.step.how ?? []), entry.step.stop_sign ?? ""]);
  };
  useEffect(() => silence, []);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      // a choice that is made needs the space bar no more: the next press does the step
      const target = event.target;
      const chosen =
        event.key === " " && target instanceof HTMLInputElement && target.type === "radio" && target.checked;
      if ((typing(event) && !chosen) || event.ctrlKey || event.metaKey || event.altKey) return;
      const act: Record<string, () => void> = {
        " ": () => {
          body.current?.querySelector<HTMLButtonElement>("[data-step-done]:not(:disabled)")?.click();
        },
        ArrowRight: () => {
          turn(1);
        },
        PageDown: () => {
          turn(1);
        },
        ArrowLeft: () => {
          turn(-1);
        },
        PageUp: () => {
          turn(-1);
        },
        v: say,
      };
      const wanted = act[event.key];
      if (!wanted) return;
      event.preventDefault();
      event.stopPropagation();
      wanted();
    };
    window.addEventListener("keydown", press, true);
    return () => {
      window.removeEventListener("keydown", press, true);
    };
  });
  if (!entry) return null;
  const done = steps.filter((one) => one.state === "done").length;
  const all = done === steps.length;
  return (
    <Dialog open fullScreen onClose={onClose} aria-labelledby="one-step">
      <Box ref={body} sx={{ p: { xs: 2, sm: 4 }, maxWidth: 900, mx: "auto", width: "100%", ...LARGE }}>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
          <Typography color="textSecondary" sx={{ mr: "auto" }}>
            {done} of {steps.length} done. <Key>Space</Key> done, <Key>←</Key> <Key>→</Key> turn
            {canSpeak() && (
              <>
                , <Key>V</Key> say it
              </>
            )}
          </Typography>
          {canSpeak() && <Button onClick={say}>Say it</Button>}
          <Button onClick={onClose}>Close</Button>
        </Box>
        {all ? (
          <Typography>All steps are done. Prove the closed device next.</Typography>
        ) : (
          <>
            <Box
              component="h1"
              id="one-step"
              sx={{ fontSize: { xs: "1.8rem", sm: "2.4rem" }, lineHeight: 1.2, my: 2, fontWeight: 600 }}
            >
              {entry.step.title}
            </Box>
            {entry.state === "done" && <Typography color="textSecondary">Done by {entry.done_by}.</Typography>}
            {entry.state === "blocked" && <Typography color="warning">{entry.blocked}</Typography>}
            <ErrorNote error={error} />
            {entry.state !== "done" && (
              <StepWork key={entry.step.id} entry={entry} state={state} closed={Boolean(job.closed_at)} onDo={onDo} />
            )}
            {placed(entry) && <FitDrawing job={job} />}
            <StepPhotos key={`photos ${entry.step.id}`} job={job} state={state} step={entry.step.id} />
            <Typography color="textSecondary" sx={{ mt: 3 }}>
              {ahead(steps, at)}
            </Typography>
          </>
        )}
        <Box sx={{ display: "flex", gap: 1, mt: 3 }}>
          <Button
            variant="outlined"
            disabled={at === 0}
            onClick={() => {
              turn(-1);
            }}
          >
            Step before
          </Button>
          <Button
            variant="outlined"
            disabled={at === steps.length - 1}
            onClick={() => {
              turn(1);
            }}
          >
            Step after
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
