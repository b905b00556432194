// One page that shows the look to those who build the next screens: greys, type, states, marks, keys.

import { Box, Button, Typography } from "@mui/material";
import { Pane } from "../pane/Pane";
import { GREYS } from "../theme/theme";
import { STATE_WORDS, StateMark, type State } from "../theme/StateMark";
import { MarkLegend } from "./keys/KeyHelp";
import { NoticeBar } from "./Notices";
import { Empty, ErrorNote } from "./parts/notes";

const NOTICES = [
  {
    code: "a",
    severity: "error",
    text: "The disk is full: photos are not stored until there is room on it. Phones keep theirs meanwhile.",
  },
  { code: "b", severity: "warning", text: "The last nightly backup failed: no space left on the device." },
  { code: "c", severity: "info", text: "The analysing process ended by itself (signal 9) and was restarted." },
] as const;

export function Look() {
  return (
    <Box sx={{ p: 2, display: "grid", gap: 3, maxWidth: 1000 }}>
      <Typography variant="h1">The look</Typography>
      <Box>
        <Typography variant="h2">Greys</Typography>
        {(["dark", "light"] as const).map((mode) => (
          <Box key={mode} sx={{ display: "flex", flexWrap: "wrap", mt: 1 }}>
            {Object.entries(GREYS[mode]).map(([name, value]) => (
              <Box key={name} sx={{ width: 120 }}>
                <Box sx={{ height: 44, bgcolor: value, border: 1, borderColor: "divider" }} />
                <Typography variant="body2">
                  {name} {value}
                </Typography>
              </Box>
            ))}
          </Box>
        ))}
      </Box>
      <Box>
        <Typography variant="h2">Notices</Typography>
        <NoticeBar
          state={{ away: true, lost: 3 }}
          notices={[...NOTICES]}
          onSeen={() => undefined}
          onClose={() => undefined}
        />
      </Box>
      <Box>
        <Typography variant="h2">Type</Typography>
        <Typography variant="h1">Heading 1, a verdict</Typography>
        <Typography variant="h2">Heading 2, a part of a station</Typography>
        <Typography variant="h3">Heading 3, a question</Typography>
        <Typography>Body, 0123456789 with even figures</Typography>
        <Typography variant="body2" color="textSecondary">
          Quiet body, an explanation
        </Typography>
      </Box>
      <Box>
        <Typography variant="h2">States: shape and word, colour only helps</Typography>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 3, mt: 1 }}>
          {(Object.keys(STATE_WORDS) as State[]).map((state) => (
            <Box key={state} sx={{ display: "flex", gap: 1, alignItems: "center" }}>
              <StateMark state={state} size={24} />
              {STATE_WORDS[state]}
            </Box>
          ))}
        </Box>
      </Box>
      <Box>
        <Typography variant="h2">Marks: dark is filled, bright is outlined, not of the panel is crossed</Typography>
        <MarkLegend />
        <Box sx={{ maxWidth: 480, mt: 2 }}>
          <Pane
            panel={{ width: 1280, height: 800 }}
            label="Example"
            unproven={[
              [0, 0, 0],
              [1, 0, 0.2],
              [0, 1, 0],
            ]}
            selected={1}
            fresh={new Set([3])}
            findings={[
              { kind: "dead_pixel", x: 300, y: 200, w: 1, h: 1, confidence: 1 },
              { kind: "bright_subpixel", channel: "red", x: 700, y: 500, w: 1, h: 1, confidence: 1 },
              { kind: "line", x: 1000, y: 399.5, w: 1, h: 800, confidence: 1 },
              { kind: "dust", x: 500, y: 600, w: 1, h: 1, confidence: 1 },
            ]}
          />
        </Box>
      </Box>
      <Box>
        <Typography variant="h2">Buttons, empty, error</Typography>
        <Box sx={{ display: "flex", gap: 1, my: 1 }}>
          <Button variant="contained">The one next thing</Button>
          <Button variant="outlined">A choice</Button>
          <Button>Something else</Button>
        </Box>
        <Empty>Nothing here yet; this says what to do next.</Empty>
        <ErrorNote error={new Error("One sentence: what was expected, and what to do.")} />
      </Box>
    </Box>
  );
}
