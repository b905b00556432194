// The whole procedure at a glance, for whoever knows it: where you are, what may come next, and a press opens a step.

import { Box, ButtonBase, Typography } from "@mui/material";
import { useMemo } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import { layOut, type GraphEntry } from "./stepGraph";

const MARKS: Record<string, State> = { done: "done", open: "active", blocked: "open", left_out: "skipped" };
const WIDE = 150;
const HIGH = 52;
const GAP_X = 34;
const GAP_Y = 10;

export function StepGraph({ steps, onOpen }: { steps: readonly GraphEntry[]; onOpen: (id: string) => void }) {
  const { placed, lines, columns, rows } = useMemo(() => layOut(steps), [steps]);
  const x = (column: number) => column * (WIDE + GAP_X);
  const y = (row: number) => row * (HIGH + GAP_Y);
  return (
    <Box
      component="section"
      aria-label="Overview"
      tabIndex={0}
      sx={{ overflowX: "auto", mb: 1.5, border: 1, borderColor: "divider", borderRadius: 1, p: 1 }}
    >
      <Box sx={{ position: "relative", width: columns * (WIDE + GAP_X) - GAP_X, height: rows * (HIGH + GAP_Y) }}>
        <Box
          component="svg"
          aria-hidden
          sx={{ position: "absolute", inset: 0, width: "100%", height: "100%", color: "text.secondary" }}
        >
          {lines.map(({ from, to }) => {
            const [x1, y1] = [x(from.column) + WIDE, y(from.row) + HIGH / 2];
            const [x2, y2] = [x(to.column), y(to.row) + HIGH / 2];
            return (
              <path
                key={`${from.entry.step.id}-${to.entry.step.id}`}
                d={`M${x1} ${y1}C${x1 + GAP_X / 2} ${y1} ${x2 - GAP_X / 2} ${y2} ${x2} ${y2}`}
                fill="none"
                stroke="currentColor"
                strokeWidth={1}
              />
            );
          })}
        </Box>
        {placed.map(({ entry, column, row }) => (
          <ButtonBase
            key={entry.step.id}
            onClick={() => {
              onOpen(entry.step.id);
            }}
            sx={{
              position: "absolute",
              left: x(column),
              top: y(row),
              width: WIDE,
              height: HIGH,
              px: 0.75,
              gap: 0.75,
              justifyContent: "flex-start",
              textAlign: "left",
              border: entry.state === "open" ? 2 : 1,
              borderColor: entry.state === "open" ? "primary.main" : "divider",
              borderRadius: 1,
              bgcolor: "background.paper",
            }}
          >
            <StateMark state={MARKS[entry.state] ?? "open"} size={16} />
            <Typography variant="body2" sx={{ lineHeight: 1.2, overflow: "hidden", maxHeight: HIGH - 8 }}>
              {entry.step.title}
            </Typography>
          </ButtonBase>
        ))}
      </Box>
    </Box>
  );
}
