// What a device can show decides what can be proven of it: from our page down to nothing at all.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Run } from "../api/client";

interface Rung {
  title: string;
  how: readonly string[];
  proves: string;
}
export const RUNGS = {
  page: {
    title: "Our page",
    how: ["Scan the code on the device, then full screen.", "The bench steps the patterns on by itself."],
    proves: "Measured: every pixel that the photos resolve, and touch.",
  },
  home: {
    title: "The owner has it at home, with one phone",
    how: [
      "Make a link and send it: it works for three days, on the device itself.",
      "Touch is tested there as here; for pictures the page explains a second camera, or a mirror.",
      "It needs the shop's public address (Settings, Shop), and a bench that is started with that name.",
    ],
    proves:
      "Measured: touch. Pictures as far as they are sharp; a photo of a mirror shows the mirror's stains too, so repeat it at the bench.",
  },
  files: {
    title: "Pictures from a stick or its gallery",
    how: [
      "Save the patterns as ZIP; names are numbered, a page says how.",
      "Show them full screen, 1:1, and photograph each.",
    ],
    proves: "Measured: every pixel that the photos resolve. Touch is tried and marked by eye.",
  },
  stick: {
    title: "A laptop nobody can log in to: a stick that starts it",
    how: [
      "On the bench's computer, make the image with the command below (it needs Debian) and write it to a whole stick.",
      "Start the laptop from the stick: 64-bit UEFI; Secure Boot may stay on. Firmware locked to its own disk: take a rung further down.",
      "Space steps on; without a key the pictures change by themselves. What the stick says first tells whether it is pixel for pixel.",
    ],
    proves: "Measured: every pixel that the photos resolve, if it says pixel for pixel; else as built-in colours.",
  },
  colours: {
    title: "Built-in colours, or its own self test",
    how: [
      "Start the device's colour test; white, black, red, green and blue are enough.",
      "Photograph each. Where a photo is not placed by its lit outline, open it, say which pattern it is and set the corners.",
      "The panel's own self test tells panel from board: answer it at Isolate.",
    ],
    proves:
      "Measured without our markers: faults of several pixels and more; single pixels as far as the outline is sharp.",
  },
  screens: {
    title: "Only its own screens: setup, lock, start-up",
    how: [
      "Look at its plain areas: start-up black, a white setup page.",
      "Drag an icon or scroll slowly over the whole surface: where it stops, touch is dead. Mark it under Touch, by eye.",
      "Prefer screens that come before the system starts; forced shut-downs are counted at Fit.",
    ],
    proves: "Seen, never measured: the verdict says so.",
  },
  nothing: {
    title: "Nothing",
    how: [
      "Torch at a slant on the dark screen: a faint picture means that the light is dead, not the picture.",
      "Connect an external screen: a clean picture there leaves panel, cable and plug.",
      "A panel that is known to be good, connected loosely, tells the rest.",
    ],
    proves: "Nothing of the panel itself: photos prove that it is dark, no more.",
  },
} as const satisfies Record<string, Rung>;
export type RungId = keyof typeof RUNGS;

/** What makes the image for this inspection, to be typed or copied on the bench's computer. */
export function stickCommand(run: Pick<Run, "run_code" | "pattern_set" | "screen">): string {
  const set = run.pattern_set === "standard" ? "" : ` --set ${run.pattern_set || "own-set.yaml"}`;
  return `./clear-lens stick --panel ${run.screen.width}x${run.screen.height} --inspection ${run.run_code}${set} --out stick.img`;
}

export function ShownBy({
  run,
  jobId,
  onPage,
  onHome,
}: {
  run: Run;
  jobId: number;
  onPage: () => void;
  onHome: () => void;
}) {
  const [id, setId] = useState<RungId>("files");
  const go = useNavigate();
  const rung: Rung = RUNGS[id];
  return (
    <Box
      component="section"
      aria-label="What the device can show"
      sx={{ mt: 1, p: 1.5, border: 1, borderColor: "divider", borderRadius: 1 }}
    >
      <TextField
        select
        fullWidth
        size="small"
        label="What can it show?"
        value={id}
        onChange={(event) => {
          setId(event.target.value as RungId);
        }}
      >
        {Object.entries(RUNGS).map(([name, one]) => (
          <MenuItem key={name} value={name}>
            {one.title}
          </MenuItem>
        ))}
      </TextField>
      <Box component="ol" sx={{ pl: 2.5, my: 1 }}>
        {rung.how.map((line) => (
          <Typography component="li" variant="body2" key={line}>
            {line}
          </Typography>
        ))}
      </Box>
      <Typography variant="body2" color="textSecondary">
        {rung.proves}
      </Typography>
      {id === "page" && (
        <Button size="small" onClick={onPage}>
          Show patterns on the device
        </Button>
      )}
      {id === "home" && (
        <Button size="small" onClick={onHome}>
          Make a link for the owner
        </Button>
      )}
      {id === "files" && (
        <Button size="small" component="a" href={`/api/runs/${run.id}/patterns.zip`} download>
          Patterns as ZIP
        </Button>
      )}
      {id === "stick" && (
        <Box
          component="code"
          tabIndex={0}
          aria-label="Command"
          sx={{
            display: "block",
            mt: 1,
            p: 1,
            bgcolor: "action.hover",
            overflowX: "auto",
            userSelect: "all",
            fontSize: 13,
          }}
        >
          {stickCommand(run)}
        </Box>
      )}
      {(id === "screens" || id === "nothing" || id === "colours") && (
        <Button
          size="small"
          onClick={() => {
            void go(`/jobs/${jobId}/isolate`);
          }}
        >
          Answer at Isolate
        </Button>
      )}
    </Box>
  );
}
