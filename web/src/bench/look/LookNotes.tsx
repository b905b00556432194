// What is said on and under the view: what is being made, what failed, how the colours are read.

import { Box, LinearProgress, Typography } from "@mui/material";
import { ErrorNote } from "../parts/notes";
import type { Looked } from "./useRectified";

/** Over the lower part of the view, above its scale bar. */
const OVER = {
  position: "absolute",
  left: 12,
  bottom: 48,
  maxWidth: "calc(100% - 24px)",
  width: 420,
  bgcolor: "background.paper",
  borderRadius: 1,
} as const;

export function Making({ looked, name }: { looked: Looked; name: string }) {
  if (looked.error)
    return (
      <Box sx={OVER}>
        <ErrorNote error={looked.error} onRetry={looked.again} />
      </Box>
    );
  if (!looked.waiting) return null;
  return (
    <Box role="status" sx={{ ...OVER, p: 1 }}>
      <Typography variant="body2">{name} is being laid over the panel.</Typography>
      <LinearProgress aria-label={`${name} is being laid over the panel`} sx={{ mt: 0.5 }} />
    </Box>
  );
}

export function DifferenceLegend() {
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
      <Box
        aria-hidden
        sx={{
          width: 120,
          flex: "none",
          height: 12,
          borderRadius: 0.5,
          background: "linear-gradient(90deg, rgb(40,150,255), rgb(52,52,52), rgb(255,160,30))",
        }}
      />
      <Typography variant="body2" color="textSecondary">
        Against what was sent: blue is darker, orange brighter than what surrounds it. Full colour: a quarter of that
        light; in a dark pattern, 2 % of the brightest.
      </Typography>
    </Box>
  );
}
