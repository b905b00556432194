// Begin a touch session: how long hands off, how many fingers, the shape of the glass; or read a recording.

import { Alert, Box, Button, Checkbox, FormControlLabel, MenuItem, TextField, Typography } from "@mui/material";
import { useRef, useState } from "react";
import type { Run } from "../api/client";

export interface Start {
  soak_s: number;
  fingers: number;
  drawn_with: DrawnWith;
  outline: { corner_px: number; cutouts: [number, number, number, number][] };
}
export type DrawnWith = "bare" | "glove" | "film";
export const DRAWN_WITH: Record<DrawnWith, string> = {
  bare: "Bare finger",
  glove: "Thin glove",
  film: "Through clear film",
};
const USUAL_SOAK_S = 60;
const MOST_SOAK_S = 3600;

/** "x, y, width, height" boxes, one a line; null when a line is none. */
export function boxesOf(text: string): [number, number, number, number][] | null {
  const lines = text
    .split(/[\n;]+/)
    .map((line) => line.trim())
    .filter(Boolean);
  const boxes = lines.map((line) => line.split(/[\s,]+/).map(Number));
  return boxes.every((box) => box.length === 4 && box.every((value) => Number.isFinite(value) && value >= 0))
    ? (boxes as [number, number, number, number][])
    : null;
}

export function StartCard({
  run,
  first,
  cracked,
  onStart,
  onFile,
}: {
  run: Run;
  first: boolean;
  /** The glass is known to be cracked: nobody draws on it before film lies over it. */
  cracked: boolean;
  onStart: (start: Start) => void;
  onFile: (file: File, plan: File | null) => void;
}) {
  const [soak, setSoak] = useState(String(USUAL_SOAK_S));
  const [fingers, setFingers] = useState(String(Math.min(10, run.glass?.touch_points ?? 0)));
  const [corner, setCorner] = useState("0");
  const [cutouts, setCutouts] = useState("");
  const [shaped, setShaped] = useState(false);
  const [chosen, setChosen] = useState<DrawnWith>("bare");
  const [filmed, setFilmed] = useState(false);
  const drawnWith = cracked ? "film" : chosen;
  const chooser = useRef<HTMLInputElement>(null);
  const boxes = boxesOf(cutouts);
  const seconds = Number(soak);
  const goodSoak = seconds >= 2 && seconds <= MOST_SOAK_S;
  return (
    <Box
      component="section"
      aria-label="New touch session"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5 }}
    >
      {cracked && (
        <Alert severity="warning" variant="outlined" sx={{ mb: 1 }}>
          The glass is cracked: clear film over it before anybody draws on it, eye protection on. Without film touch is
          not drawn.
          <FormControlLabel
            sx={{ display: "flex", mt: 0.5 }}
            control={
              <Checkbox
                checked={filmed}
                onChange={(_, checked) => {
                  setFilmed(checked);
                }}
              />
            }
            label="Clear film lies over the whole glass"
          />
        </Alert>
      )}
      <Typography sx={{ mb: 1 }}>
        The device shows what to draw: lines across and down, the rim, diagonals, a slow circle; then hands off, charger
        out and in.
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "flex-start" }}>
        <TextField
          label="Hands off, seconds"
          type="number"
          size="small"
          value={soak}
          onChange={(event) => {
            setSoak(event.target.value);
          }}
          error={!goodSoak}
          helperText={goodSoak ? "twice: charger out, in" : `2 to ${MOST_SOAK_S}`}
          sx={{ width: 170 }}
        />
        <TextField
          label="Fingers at once"
          type="number"
          size="small"
          value={fingers}
          onChange={(event) => {
            setFingers(event.target.value);
          }}
          helperText="as the device claims; 0: not tested"
          slotProps={{ htmlInput: { min: 0, max: 10 } }}
          sx={{ width: 190 }}
        />
        <TextField
          select
          label="Drawn with"
          size="small"
          value={drawnWith}
          disabled={cracked}
          onChange={(event) => {
            setChosen(event.target.value as DrawnWith);
          }}
          helperText="kept with the session"
          sx={{ width: 190 }}
        >
          {Object.entries(DRAWN_WITH).map(([id, words]) => (
            <MenuItem key={id} value={id}>
              {words}
            </MenuItem>
          ))}
        </TextField>
        <Button
          size="small"
          aria-expanded={shaped}
          onClick={() => {
            setShaped(!shaped);
          }}
        >
          Corners and cut-outs
        </Button>
      </Box>
      {shaped && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, mt: 1.5 }}>
          <TextField
            label="Corner radius, px"
            type="number"
            size="small"
            value={corner}
            onChange={(event) => {
              setCorner(event.target.value);
            }}
            sx={{ width: 170 }}
          />
          <TextField
            label="Cut-outs: x, y, width, height"
            size="small"
            multiline
            value={cutouts}
            onChange={(event) => {
              setCutouts(event.target.value);
            }}
            error={!boxes}
            helperText={boxes ? "panel px, one a line" : "four numbers a line, for example 300, 0, 120, 60"}
            sx={{ width: 280 }}
          />
        </Box>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1.5 }}>
        <Button
          variant={first ? "contained" : "outlined"}
          disabled={!goodSoak || !boxes || (cracked && !filmed)}
          onClick={() => {
            onStart({
              soak_s: seconds,
              drawn_with: drawnWith,
              fingers: Math.max(0, Math.min(10, Math.round(Number(fingers) || 0))),
              outline: { corner_px: Math.max(0, Number(corner) || 0), cutouts: boxes ?? [] },
            });
          }}
        >
          {first ? "Start the session" : "Start another session"}
        </Button>
        <input
          ref={chooser}
          type="file"
          multiple
          hidden
          aria-label="Recording"
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            const plan = files.length > 1 ? (files.find((file) => file.name.endsWith(".json")) ?? null) : null;
            const recording = files.find((file) => file !== plan);
            if (recording) onFile(recording, plan);
            event.target.value = "";
          }}
        />
        <Button onClick={() => chooser.current?.click()}>Read a recording</Button>
      </Box>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 0.5 }}>
        JSON Lines with its plan inside, or an evemu or libinput recording chosen together with its plan (.json). A
        recording without a plan can show a fault, but proves nothing sound.
      </Typography>
    </Box>
  );
}
