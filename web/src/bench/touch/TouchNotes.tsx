// Under the pane: how to read the touch layer, and the replay.

import { Box, Button, MenuItem, Slider, TextField, Typography } from "@mui/material";
import type { Touch } from "../api/client";
import type { Replay } from "./replay";

const SPEEDS = [1, 2, 4, 8, 16];

export function TouchNotes({ touch, replay }: { touch: Touch; replay: Replay }) {
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="body2" color="textSecondary">
        Black: does not answer. Striped: answers at times. Hatched: not proven. Dotted outline: silent once, draw it
        again. Arcs: touches that nobody made.
      </Typography>
      {touch.events > 0 && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mt: 0.5 }}>
          <Button size="small" variant="outlined" onClick={replay.play}>
            {replay.playing ? "Pause" : "Play the strokes"}
          </Button>
          <Button
            size="small"
            aria-pressed={replay.shown}
            onClick={() => {
              replay.show(!replay.shown);
            }}
          >
            {replay.shown ? "Hide the strokes" : "Show the strokes"}
          </Button>
          {replay.shown && (
            <>
              <Slider
                size="small"
                aria-label="Time of the replay"
                value={replay.until}
                max={Math.max(replay.end, 1)}
                onChange={(_, value) => {
                  replay.seek(value);
                }}
                sx={{ flex: "1 1 140px", minWidth: 120 }}
                valueLabelDisplay="auto"
                valueLabelFormat={(value) => `${(value / 1000).toFixed(1)} s`}
              />
              <TextField
                select
                size="small"
                label="Speed"
                value={replay.speed}
                onChange={(event) => {
                  replay.setSpeed(Number(event.target.value));
                }}
                sx={{ width: 90 }}
              >
                {SPEEDS.map((speed) => (
                  <MenuItem key={speed} value={speed}>
                    {speed}x
                  </MenuItem>
                ))}
              </TextField>
            </>
          )}
        </Box>
      )}
    </Box>
  );
}
