// What the brightness control does, from a photo at each of its steps.

import { Box, Typography } from "@mui/material";
import { aboutLight } from "../about";
import { BrightnessPlot } from "../../pane/BrightnessPlot";
import type { Run } from "../api/client";
import { RowTime } from "./RowTime";

const WORDS = {
  works: "Works",
  stuck: "Changes nothing",
  dark: "Stays dark at the top",
  unclear: "Not clear",
} as const;

export function BrightnessCard({ run, closed, canSimulate }: { run: Run; closed: boolean; canSimulate: boolean }) {
  const curve = run.result?.brightness;
  if (!curve) return null;
  return (
    <Box
      component="section"
      aria-label="Brightness control"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, my: 1.5 }}
    >
      <Typography variant="h2">Brightness control: {WORDS[curve.control]}</Typography>
      <BrightnessPlot steps={curve.steps} uncertainty={curve.uncertainty} />
      <Typography variant="body2" color="textSecondary">
        Light over the setting. A comb: bars in the photo, the light is pulsed there. A photo exposed for longer than a
        pulse shows none.
      </Typography>
      {curve.reasons.map((line) => (
        <Typography key={line} variant="body2" sx={{ mt: 0.5 }}>
          {line}
        </Typography>
      ))}
      {curve.full && (
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          Full gives {aboutLight(curve.full)}.
        </Typography>
      )}
      {curve.pulses && !closed && <RowTime run={run} canSimulate={canSimulate} />}
    </Box>
  );
}
