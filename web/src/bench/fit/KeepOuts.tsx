// Where no pick may go: what is usual for the build, and what somebody found on this very device.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { keepOutBox, type Edge } from "../../pane/drawings";
import { client, type FitState, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import type { SurfaceBox } from "./TapSurface";

type KeepOut = FitState["keep_outs"][number];
const LETTER_PX = 13;
const THINNEST_PX = 9;

export function KeepOutStrips({
  device,
  places,
  scale,
  px,
}: {
  device: SurfaceBox;
  places: readonly KeepOut[];
  /** Drawing units of a millimetre. */
  scale: number;
  px: number;
}) {
  return (
    <>
      <defs>
        <pattern
          id="keepout"
          width={7 * px}
          height={7 * px}
          patternTransform="rotate(45)"
          patternUnits="userSpaceOnUse"
        >
          <path d={`M0 0V${7 * px}`} stroke="currentColor" strokeWidth={2.2 * px} />
        </pattern>
      </defs>
      {places.map((one, number) => {
        const along = [one.along[0] ?? 0, one.along[1] ?? 1] as const;
        const box = keepOutBox(device, one.edge, along, Math.max(one.depth_mm * scale, THINNEST_PX * px));
        // the words of several at one edge stand below each other
        const line = places.slice(0, number).filter((other) => other.edge === one.edge).length;
        const away = one.edge === "bottom" ? box.y - (6 + 16 * line) * px : box.y + box.height + 16 * (line + 1) * px;
        return (
          <g key={`${one.id} ${one.what}`}>
            <rect {...box} fill="url(#keepout)" stroke="currentColor" strokeWidth={2} />
            <text
              x={
                one.edge === "left"
                  ? box.x + box.width + 6 * px
                  : one.edge === "right"
                    ? box.x - 6 * px
                    : Math.min(Math.max(box.x + box.width / 2, device.x + 50 * px), device.x + device.width - 50 * px)
              }
              y={one.edge === "left" || one.edge === "right" ? box.y + box.height / 2 : away}
              textAnchor={one.edge === "left" ? "start" : one.edge === "right" ? "end" : "middle"}
              fontSize={LETTER_PX * px}
              fill="currentColor"
            >
              {one.what}, {one.depth_mm} mm
            </text>
          </g>
        );
      })}
    </>
  );
}

const EDGES: readonly Edge[] = ["top", "bottom", "left", "right"];
const EMPTY = { edge: "bottom" as Edge, from: "0", to: "100", depth: "", what: "" };
const number = (text: string): number => Number(text.trim().replace(",", "."));

/** What was found here, and a form for one more. */
export function KeepOutNotes({ job, places }: { job: Job; places: readonly KeepOut[] }) {
  const [told, setTold] = useState<typeof EMPTY | null>(null);
  const path = { job_id: job.id };
  const add = useJobChange<KeepOut>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/fit/keep-outs", { params: { path }, body }),
  );
  const back = useJobChange<number>(job.id, (keep_out_id) =>
    client.DELETE("/api/jobs/{job_id}/fit/keep-outs/{keep_out_id}", { params: { path: { ...path, keep_out_id } } }),
  );
  const found = places.filter((one) => one.id !== undefined && one.id > 0);
  const [from, to, depth] = told ? [number(told.from), number(told.to), number(told.depth)] : [0, 0, 0];
  const sound = told !== null && from >= 0 && from < to && to <= 100 && depth > 0 && depth <= 80 && told.what.trim();
  const field = (name: "from" | "to" | "depth" | "what", label: string, width: number) => (
    <TextField
      size="small"
      label={label}
      value={told?.[name] ?? ""}
      sx={{ width }}
      slotProps={{
        htmlInput: { maxLength: name === "what" ? 80 : 5, inputMode: name === "what" ? "text" : "decimal" },
      }}
      onChange={(event) => {
        if (told) setTold({ ...told, [name]: event.target.value });
      }}
    />
  );
  return (
    <Box sx={{ mt: 0.5 }}>
      {found.map((one) => (
        <Typography key={one.id} variant="body2">
          Keep-out found on this device: {one.what}, {one.edge} edge, {one.depth_mm} mm deep ({one.by}).{" "}
          {!job.closed_at && (
            <Button
              size="small"
              onClick={() => {
                if (one.id !== undefined) back.mutate(one.id);
              }}
            >
              Take back
            </Button>
          )}
        </Typography>
      ))}
      {!job.closed_at && (
        <Button
          size="small"
          aria-expanded={told !== null}
          onClick={() => {
            setTold(told ? null : EMPTY);
          }}
        >
          No pick here
        </Button>
      )}
      {told && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}>
          <TextField
            select
            size="small"
            label="Edge, seen from the front"
            value={told.edge}
            sx={{ width: 190 }}
            onChange={(event) => {
              setTold({ ...told, edge: event.target.value as Edge });
            }}
          >
            {EDGES.map((edge) => (
              <MenuItem key={edge} value={edge}>
                {edge}
              </MenuItem>
            ))}
          </TextField>
          {field("from", "From, %", 90)}
          {field("to", "To, %", 90)}
          {field("depth", "Depth, mm", 100)}
          {field("what", "What lies there", 200)}
          <Button
            variant="outlined"
            disabled={!sound || add.isPending}
            onClick={() => {
              const place = { edge: told.edge, along: [from / 100, to / 100], depth_mm: depth, what: told.what.trim() };
              add.mutate(place as KeepOut, {
                onSuccess: () => {
                  setTold(null);
                },
              });
            }}
          >
            Note it
          </Button>
          <Typography variant="body2" color="textSecondary">
            Counted from the left or upper end of the edge; the next job of this device is shown it.
          </Typography>
        </Box>
      )}
      <ErrorNote error={add.error ?? back.error} />
    </Box>
  );
}
