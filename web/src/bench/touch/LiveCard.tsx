// A session that is being recorded: where the glass is, and the keys that drive it from here, since touch may not work.

import { Box, Button, Typography } from "@mui/material";
import { useEffect, useState } from "react";
import { StateMark } from "../../theme/StateMark";
import type { Job, Touch } from "../api/client";
import { useKeys } from "../keys/useKeys";
import { Key } from "../parts/notes";

export type Do = "go" | "back" | "skip";
const KEYS: Record<string, Do> = {
  " ": "go",
  ArrowRight: "go",
  PageDown: "go",
  ArrowLeft: "back",
  PageUp: "back",
  x: "skip",
};
const WORDS: Record<string, string> = {
  ready: "waits for the finger",
  running: "runs",
  asking: "felt nothing: was it drawn?",
  end: "all drawn",
};

/** Counts down from what the glass said; the glass has the true clock. */
function Clock({ leftMs }: { leftMs: number }) {
  const [left, setLeft] = useState(leftMs);
  useEffect(() => {
    const end = performance.now() + leftMs;
    const timer = window.setInterval(() => {
      setLeft(Math.max(0, end - performance.now()));
    }, 500);
    return () => {
      clearInterval(timer);
    };
  }, [leftMs]);
  const seconds = Math.ceil(left / 1000);
  return (
    <Typography component="span" sx={{ fontSize: "1.6rem", fontVariantNumeric: "tabular-nums" }}>
      {Math.floor(seconds / 60)}:{String(seconds % 60).padStart(2, "0")}
    </Typography>
  );
}

function Steps({ touch, at }: { touch: Touch; at: string | null }) {
  return (
    <Box
      component="ol"
      aria-label="Steps"
      sx={{ listStyle: "none", m: 0, my: 1, p: 0, display: "flex", flexWrap: "wrap", columnGap: 2, rowGap: 0.5 }}
    >
      {(touch.plan.steps ?? []).map((step) => (
        <Box
          component="li"
          key={step.id}
          aria-current={step.id === at ? "step" : undefined}
          sx={{ display: "flex", gap: 0.5, alignItems: "center" }}
        >
          <StateMark state={touch.done.includes(step.id) ? "done" : step.id === at ? "active" : "open"} size={15} />
          <Typography variant="body2" sx={{ fontWeight: step.id === at ? 600 : 400 }}>
            {step.id}
          </Typography>
        </Box>
      ))}
    </Box>
  );
}

export function LiveCard({
  job,
  touch,
  linked,
  onDo,
  onEnd,
  onSimulate,
  onLink,
}: {
  job: Job;
  touch: Touch;
  linked: boolean;
  onDo: (what: Do) => void;
  onEnd: () => void;
  onSimulate: () => void;
  onLink: () => void;
}) {
  const now = touch.now as {
    phase?: string;
    step?: string | null;
    left?: number;
    unasked?: number;
    left_ms?: number;
  } | null;
  useKeys(
    Object.fromEntries(
      Object.entries(KEYS).map(([key, what]) => [
        key,
        () => {
          onDo(what);
        },
      ]),
    ),
  );
  const asking = now?.phase === "asking";
  return (
    <Box component="section" aria-label="Recording" sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5 }}>
      <Box sx={{ display: "flex", gap: 1, alignItems: "baseline" }} role="status">
        <Typography variant="h2" component="p">
          {now?.step ?? "Recording"}
        </Typography>
        <Typography>
          {now
            ? (WORDS[now.phase ?? ""] ?? "")
            : linked
              ? "waits for the device"
              : "open the device page on the device"}
        </Typography>
        {now?.phase === "running" && now.left_ms ? (
          <Box sx={{ ml: "auto" }}>
            <Clock key={`${now.step}.${now.left_ms}`} leftMs={now.left_ms} />
          </Box>
        ) : null}
      </Box>
      <Steps touch={touch} at={now?.step ?? null} />
      <Typography variant="body2" color="textSecondary">
        {touch.events} reports.{now?.left !== undefined ? ` ${now.left} cells have not answered yet.` : ""}
        {now?.unasked ? ` ${now.unasked} touches that nobody made.` : ""}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
        <Button
          variant="contained"
          disabled={now?.phase === "end"}
          onClick={() => {
            onDo("go");
          }}
        >
          {asking ? "Yes, it was drawn" : "Go"}{" "}
          <Box component="span" sx={{ ml: 1 }}>
            <Key>Space</Key>
          </Box>
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            onDo("back");
          }}
        >
          {asking ? "No, once more" : "Back"}{" "}
          <Box component="span" sx={{ ml: 1 }}>
            <Key>←</Key>
          </Box>
        </Button>
        <Button
          disabled={now?.phase === "end"}
          onClick={() => {
            onDo("skip");
          }}
        >
          Skip this step{" "}
          <Box component="span" sx={{ ml: 1 }}>
            <Key>X</Key>
          </Box>
        </Button>
        <Button variant="outlined" onClick={onLink}>
          Show it on the device
        </Button>
        {job.can_simulate && <Button onClick={onSimulate}>Simulated finger: draw it all</Button>}
        <Button onClick={onEnd}>End the recording</Button>
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
        The system&apos;s own gestures at the rim cannot be switched off by a browser: use full screen, or pin the page
        in the device&apos;s settings; when one strikes, go on from there.
      </Typography>
    </Box>
  );
}
