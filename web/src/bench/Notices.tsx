// What must be said on every screen: the server is away, something was restarted, the disk runs full, a backup failed.

import { Alert, Box, Button } from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { away, type AwayState } from "./api/away";
import type { Condition } from "./api/client";
import { useCondition } from "./api/hooks";

const SQUARE = {
  borderRadius: 0,
  borderWidth: "0 0 1px",
  py: 0,
  alignItems: "center",
  "& .MuiAlert-action": { p: 0, alignItems: "center" },
  "& .MuiAlert-message": { py: 1 },
} as const;

/** As text, from given states: what the look page shows. */
export function NoticeBar({
  state,
  notices,
  onSeen,
  onClose,
}: {
  state: AwayState;
  notices: Condition["notices"];
  onSeen?: () => void;
  onClose?: (code: string) => void;
}) {
  return (
    <Box role="status" aria-label="Notices">
      {state.away && (
        <Alert severity="error" variant="outlined" sx={SQUARE}>
          The server does not answer. What is on the screen stays; nothing new is stored until it is back. Trying again.
        </Alert>
      )}
      {state.lost > 0 && (
        <Alert
          severity="warning"
          variant="outlined"
          sx={SQUARE}
          action={
            onSeen && (
              <Button color="inherit" onClick={onSeen}>
                Understood
              </Button>
            )
          }
        >
          {state.lost === 1 ? "One key press or change was" : `${state.lost} key presses or changes were`} not stored
          while the server was away.{" "}
          {state.away ? "Repeat what is missing when it is back." : "It is back: repeat what is missing."}
        </Alert>
      )}
      {notices.map((notice) => (
        <Alert
          key={notice.code}
          severity={notice.severity}
          variant="outlined"
          sx={SQUARE}
          onClose={
            onClose && notice.severity === "info"
              ? () => {
                  onClose(notice.code);
                }
              : undefined
          }
        >
          {notice.text}
        </Alert>
      ))}
    </Box>
  );
}

export function Notices() {
  const state = useSyncExternalStore(away.listen, away.read);
  const condition = useCondition();
  const [closed, setClosed] = useState<string[]>([]);
  const queries = useQueryClient();
  const was = useRef(state.away);
  useEffect(() => {
    if (was.current && !state.away) void queries.invalidateQueries();
    was.current = state.away;
  }, [state.away, queries]);
  const notices = (condition.data?.notices ?? []).filter((notice) => !closed.includes(notice.code));
  return (
    <NoticeBar
      state={state}
      notices={notices}
      onSeen={() => {
        away.seen();
      }}
      onClose={(code) => {
        setClosed((all) => [...all, code]);
      }}
    />
  );
}
