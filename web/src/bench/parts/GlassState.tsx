// What the device page last said of itself: whether each pixel of the pattern is a pixel of the panel.

import { Alert, Typography } from "@mui/material";
import type { Run } from "../api/client";

export function GlassState({ run }: { run: Run }) {
  const glass = run.glass;
  if (!glass)
    return (
      <Typography variant="body2" color="textSecondary">
        No device page is open. Show the patterns on the device, or export them.
      </Typography>
    );
  const size = `${glass.canvas_width ?? "?"} x ${glass.canvas_height ?? "?"} px, ratio ${glass.ratio ?? "?"}, ${glass.touch_points ?? 0} touch points`;
  if (glass.exact)
    return (
      <Typography variant="body2" color="textSecondary">
        Device page: 1:1, {size}
        {glass.awake ? "" : ". The browser may dim the screen"}.
      </Typography>
    );
  const words = glass.rim_px
    ? `The browser keeps a rim of ${glass.rim_px} px; what lies under it stays unproven. Use full screen.`
    : "The device page is not 1:1. Switch scaling and zoom off on the device, or correct the resolution at Intake.";
  return (
    <Alert severity="warning" variant="outlined">
      {words} ({size})
    </Alert>
  );
}
