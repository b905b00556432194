// States are told by shape and word; colour only helps.

import { Box } from "@mui/material";

export type State = "open" | "active" | "done" | "failed" | "not_proven" | "skipped";
export const STATE_WORDS: Record<State, string> = {
  open: "open",
  active: "under way",
  done: "good",
  failed: "fails",
  not_proven: "not proven",
  skipped: "skipped",
};
const COLOURS: Record<State, string> = {
  open: "text.secondary",
  active: "primary.main",
  done: "success.main",
  failed: "error.main",
  not_proven: "warning.main",
  skipped: "text.secondary",
};

function Shape({ state }: { state: State }) {
  switch (state) {
    case "open":
      return <circle cx="9" cy="9" r="6.5" fill="none" stroke="currentColor" strokeWidth="1.5" />;
    case "active":
      return (
        <>
          <circle cx="9" cy="9" r="6.5" fill="none" stroke="currentColor" strokeWidth="1.5" />
          <circle cx="9" cy="9" r="3" fill="currentColor" />
        </>
      );
    case "done":
      return <path d="M3 9.5l4 4 8-9" fill="none" stroke="currentColor" strokeWidth="2.6" />;
    case "failed":
      return (
        <>
          <path d="M9 1.5L17 16H1z" fill="none" stroke="currentColor" strokeWidth="1.8" />
          <path d="M9 6.5v5M9 13v1.6" stroke="currentColor" strokeWidth="1.8" />
        </>
      );
    case "not_proven":
      return (
        <>
          <circle cx="9" cy="9" r="6.5" fill="none" stroke="currentColor" strokeWidth="1.5" />
          <path d="M9 2.5a6.5 6.5 0 0 1 0 13z" fill="currentColor" />
        </>
      );
    case "skipped":
      return <path d="M3 9h12" stroke="currentColor" strokeWidth="2.2" strokeDasharray="3 2" />;
  }
}

export function StateMark({ state, size = 18 }: { state: State; size?: number }) {
  return (
    <Box
      component="svg"
      viewBox="0 0 18 18"
      role="img"
      aria-label={STATE_WORDS[state]}
      sx={{ width: size, height: size, flex: "none", color: COLOURS[state] }}
    >
      <Shape state={state} />
    </Box>
  );
}

export const ofVerdict = (result: string | undefined): State =>
  result === "pass" ? "done" : result === "fail" ? "failed" : result === "not_proven" ? "not_proven" : "open";
export const VERDICT_WORDS: Record<string, string> = { pass: "Pass", fail: "Fail", not_proven: "Not proven" };
