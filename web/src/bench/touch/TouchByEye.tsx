// Touch tried by eye: where the device cannot open our page, a person drags over the whole surface and marks what did not answer.

import { Box, Button, Typography } from "@mui/material";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { client, type Job, type Stage } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { useProving } from "../prove/useProving";
import { cellAt, cellKey, movedCursor, type Cell } from "./marks";

const HOW = [
  "Move an icon, or draw in a notes or setup screen: slowly, line by line, over the whole surface and along the rims.",
  "Where it stops or the trail has a gap, drag again from the other side: a place that stops both ways is dead, one that stops once was a lifted finger.",
  "Mark what does not answer. Press and move marks several; arrow keys and Space do the same.",
];

function Grid({
  columns,
  rows,
  marked,
  onMark,
}: {
  columns: number;
  rows: number;
  marked: ReadonlySet<string>;
  onMark?: (cell: Cell, on: boolean) => void;
}) {
  const [cursor, setCursor] = useState<Cell | null>(null);
  const painting = useRef<boolean | null>(null);
  const paint = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const cell = cellAt((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height, columns, rows);
    painting.current ??= !marked.has(cellKey(cell));
    onMark?.(cell, painting.current);
  };
  const press = (event: KeyboardEvent) => {
    const moved = movedCursor(event.key, cursor ?? [0, 0], columns, rows);
    if (!moved && event.key !== " ") return;
    event.preventDefault();
    event.stopPropagation();
    const at = moved ?? cursor ?? [0, 0];
    setCursor(at);
    if (!moved) onMark?.(at, !marked.has(cellKey(at)));
  };
  return (
    <Box
      component="svg"
      role="application"
      aria-label={`Places that do not answer: ${marked.size} marked${cursor ? `; at column ${cursor[0] + 1}, row ${cursor[1] + 1}${marked.has(cellKey(cursor)) ? ", marked" : ""}` : ""}`}
      tabIndex={onMark ? 0 : -1}
      viewBox={`0 0 ${columns} ${rows}`}
      onKeyDown={onMark ? press : undefined}
      onFocus={() => {
        setCursor((at) => at ?? [0, 0]);
      }}
      onBlur={() => {
        setCursor(null);
      }}
      onPointerDown={(event) => {
        if (!onMark) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        paint(event);
      }}
      onPointerMove={(event) => {
        if (painting.current !== null) paint(event);
      }}
      onPointerUp={() => {
        painting.current = null;
      }}
      sx={{
        display: "block",
        width: "100%",
        maxWidth: columns >= rows ? 560 : 260,
        my: 1,
        bgcolor: "background.default",
        border: 1,
        borderColor: "divider",
        touchAction: "none",
        cursor: onMark ? "crosshair" : "default",
      }}
    >
      {Array.from({ length: columns * rows }, (_, n): Cell => [n % columns, Math.floor(n / columns)]).map(([x, y]) => (
        <rect
          key={`${x}.${y}`}
          x={x + 0.04}
          y={y + 0.04}
          width={0.92}
          height={0.92}
          fill={marked.has(cellKey([x, y])) ? "currentColor" : "transparent"}
          stroke="currentColor"
          strokeOpacity={0.25}
          strokeWidth={0.04}
        />
      ))}
      {cursor && (
        <rect
          x={cursor[0]}
          y={cursor[1]}
          width={1}
          height={1}
          fill="none"
          stroke="currentColor"
          strokeWidth={0.16}
          pointerEvents="none"
        />
      )}
    </Box>
  );
}

export function TouchByEye({ job, stage, locked }: { job: Job; stage: Stage; locked: boolean }) {
  const proving = useProving(job.id);
  const save = useJobChange<Cell[]>(job.id, (cells) =>
    client.POST("/api/jobs/{job_id}/proving/touch-by-eye/{stage}", {
      params: { path: { job_id: job.id, stage } },
      body: { cells },
    }),
  );
  const seen = proving.data?.eye.find((one) => one.stage === stage)?.touch;
  const [draft, setDraft] = useState<ReadonlySet<string> | null>(null);
  if (!seen || (locked && !seen.tried)) return null;
  const stored = new Set(seen.cells.map(([x, y]) => cellKey([x, y])));
  const marked = draft ?? stored;
  const send = (cells: ReadonlySet<string>) => {
    save.mutate(
      [...cells].map((key) => key.split(".").map(Number) as Cell),
      {
        onSuccess: () => {
          setDraft(null);
        },
      },
    );
  };
  if (draft === null && !seen.tried)
    return (
      <Button
        size="small"
        onClick={() => {
          setDraft(new Set());
        }}
      >
        It cannot open our page: mark by eye
      </Button>
    );
  return (
    <Box
      component="section"
      aria-label="Touch by eye"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, my: 1.5 }}
    >
      <Typography variant="h2">Touch by eye</Typography>
      <Typography variant="body2" color="textSecondary">
        It counts as seen, not as measured: it can fail a device, and it proves no profile.
      </Typography>
      {draft !== null && (
        <Box component="ol" sx={{ pl: 2.5, my: 1 }}>
          {HOW.map((line) => (
            <Typography component="li" variant="body2" key={line}>
              {line}
            </Typography>
          ))}
        </Box>
      )}
      <Grid
        columns={seen.columns}
        rows={seen.rows}
        marked={marked}
        onMark={
          draft === null || locked
            ? undefined
            : (cell, on) => {
                setDraft((before) => {
                  const after = new Set(before);
                  if (on) after.add(cellKey(cell));
                  else after.delete(cellKey(cell));
                  return after;
                });
              }
        }
      />
      {draft === null && (
        <Box role="status">
          {(seen.told.length ? seen.told : ["All of it answered."]).map((line) => (
            <Typography key={line}>{line}</Typography>
          ))}
        </Box>
      )}
      <ErrorNote error={save.error} />
      {!locked && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          {draft === null ? (
            <Button
              variant="outlined"
              onClick={() => {
                setDraft(stored);
              }}
            >
              Change
            </Button>
          ) : (
            <>
              <Button
                variant="contained"
                disabled={!marked.size || save.isPending}
                onClick={() => {
                  send(marked);
                }}
              >
                {marked.size === 1 ? "Keep 1 place" : `Keep ${marked.size} places`}
              </Button>
              <Button
                variant="outlined"
                disabled={save.isPending}
                onClick={() => {
                  send(new Set());
                }}
              >
                All of it answers
              </Button>
              <Button
                onClick={() => {
                  setDraft(null);
                }}
              >
                Cancel
              </Button>
            </>
          )}
        </Box>
      )}
    </Box>
  );
}
