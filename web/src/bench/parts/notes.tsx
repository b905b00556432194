// Empty, loading and error states, the same everywhere.

import { Alert, Box, Button, CircularProgress, Typography } from "@mui/material";
import { useEffect, useState } from "react";

/** Says that something is loading, but only after a second: quick answers do not flicker. */
export function Waiting({ words }: { words: string }) {
  const [slow, setSlow] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => {
      setSlow(true);
    }, 800);
    return () => {
      clearTimeout(timer);
    };
  }, []);
  return (
    <Box role="status" sx={{ p: 3, display: "flex", gap: 2, alignItems: "center", minHeight: 72 }}>
      {slow && (
        <>
          <CircularProgress size={20} aria-hidden />
          <Typography>{words}</Typography>
        </>
      )}
    </Box>
  );
}

export function ErrorNote({ error, onRetry, onClose }: { error: unknown; onRetry?: () => void; onClose?: () => void }) {
  if (!error) return null;
  const text = error instanceof Error ? error.message : "Something went wrong. Try again.";
  return (
    <Alert
      severity="error"
      variant="outlined"
      sx={{ my: 1, overflowWrap: "anywhere" }}
      onClose={onClose}
      action={
        onRetry ? (
          <Button color="inherit" onClick={onRetry}>
            Try again
          </Button>
        ) : undefined
      }
    >
      {text}
    </Alert>
  );
}

export function Empty({ children }: { children: React.ReactNode }) {
  return (
    <Box
      sx={{ p: 2, border: 1, borderStyle: "dashed", borderColor: "divider", borderRadius: 1, color: "text.secondary" }}
    >
      {children}
    </Box>
  );
}

export function Key({ children }: { children: React.ReactNode }) {
  return (
    <Box
      component="kbd"
      sx={{
        px: 0.75,
        border: 1,
        borderColor: "divider",
        borderRadius: 0.5,
        fontSize: "0.75rem",
        fontFamily: "inherit",
        color: "text.secondary",
      }}
    >
      {children}
    </Box>
  );
}
