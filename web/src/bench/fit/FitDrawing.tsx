// The device as it lies on the bench, seen from the front: where the cable runs, where no pick may go, where the screws of each group sit.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { keepOutBox, plugBox, unitsPerMm } from "../../pane/drawings";
import { client, got, type FitState, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { AdhesiveLines, Screws, type DeviceBox } from "./FitMarks";
import { tapped, type Spot } from "./placing";

const WIDE = 1000;
const ROOM = 40;
// about how large it is drawn: letters and screws have the same size beside a laptop and on a phone
const SHOWN_W = 640;
const SHOWN_H = 400;
const LETTER_PX = 13;

/** The groups that the step in hand takes out or puts back. */
const inHand = (state: FitState): string[] => {
  const next = state.steps.find((entry) => entry.state === "open");
  return Object.keys(next?.step.counts ?? {});
};

const PLACED: Record<string, string> = {
  here: "Marked on this device.",
  last_time: "Marked on the last one.",
  usual: "",
};

export function FitDrawing({ job }: { job: Job }) {
  const fit = useQuery({
    queryKey: ["job", job.id, "fit"],
    queryFn: () => got<FitState>(client.GET("/api/jobs/{job_id}/fit", { params: { path: { job_id: job.id } } })),
  });
  const [placing, setPlacing] = useState("");
  const [drawn, setDrawn] = useState<Record<string, Spot[]>>({});
  const svg = useRef<SVGSVGElement>(null);
  const store = useJobChange<{ group: string; places: Spot[] }>(job.id, ({ group, places }) =>
    client.PUT("/api/jobs/{job_id}/fit/places/{group}", {
      params: { path: { job_id: job.id, group } },
      body: { places },
    }),
  );
  const state = fit.data;
  if (!state?.title) return null;
  const put = (group: string, places: Spot[]) => {
    setDrawn({ ...drawn, [group]: places });
    store.mutate({ group, places });
  };
  const place = (group: string, x: number, y: number) => {
    const known = state.fasteners[group];
    // the usual places are a guess: the first tap begins anew
    const before = drawn[group] ?? (known && known.placed !== "usual" ? known.spots : []);
    put(group, tapped(before, x, y, job.panel_height / job.panel_width));
  };
  const spec = state.panel;
  const tall = Math.min(WIDE * (job.panel_height / job.panel_width), 2.2 * WIDE);
  const device: DeviceBox = { x: ROOM, y: ROOM, width: WIDE, height: tall };
  const scale = unitsPerMm(WIDE, job.panel_width, job.panel_height, job.diagonal_in ?? null);
  const plug = spec?.connector_side
    ? plugBox(device, spec.connector_side, spec.connector_edge ?? "bottom", "front")
    : null;
  const cable = state.steps.find((entry) => entry.step.id === "cable_side");
  const px = Math.max((WIDE + 2 * ROOM) / SHOWN_W, (tall + 2 * ROOM) / SHOWN_H);
  const groups = Object.entries(state.fasteners);
  const now = inHand(state);
  const keepOuts = state.keep_outs;
  return (
    <Box
      component="section"
      aria-label="Where things are"
      sx={{ mt: 1.5, "--drawing-ground": (theme) => theme.palette.background.default }}
    >
      <Box sx={{ color: "text.primary" }}>
        <svg
          ref={svg}
          onClick={(event) => {
            if (!placing || !svg.current) return;
            const box = svg.current.getBoundingClientRect();
            // the picture is fitted into its box: letterboxed where that is wider or higher
            const whole = { w: WIDE + 2 * ROOM, h: tall + 2 * ROOM };
            const fit = Math.min(box.width / whole.w, box.height / whole.h);
            const x = (event.clientX - box.left - (box.width - whole.w * fit) / 2) / fit - device.x;
            const y = (event.clientY - box.top - (box.height - whole.h * fit) / 2) / fit - device.y;
            place(placing, x / device.width, y / device.height);
          }}
          viewBox={`0 0 ${WIDE + 2 * ROOM} ${tall + 2 * ROOM}`}
          role="img"
          aria-label="The device from the front: cable, keep-outs and screws"
          style={{ width: "100%", maxHeight: "52vh", display: "block", cursor: placing ? "crosshair" : undefined }}
        >
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
          <rect {...device} rx={18} fill="none" stroke="currentColor" strokeWidth={1.6 * px} />
          <rect
            x={device.x + 22}
            y={device.y + 22}
            width={device.width - 44}
            height={device.height - 44}
            fill="none"
            stroke="currentColor"
            strokeWidth={1}
            opacity={0.5}
          />
          {keepOuts.map((one) => {
            const box = keepOutBox(
              device,
              one.edge,
              [one.along[0] ?? 0, one.along[1] ?? 1],
              Math.max(one.depth_mm * scale, 9 * px),
            );
            return (
              <g key={one.what}>
                <rect {...box} fill="url(#keepout)" stroke="currentColor" strokeWidth={2} />
                <text
                  x={Math.min(Math.max(box.x + box.width / 2, 90 * px), WIDE + 2 * ROOM - 90 * px)}
                  y={one.edge === "bottom" ? box.y - 6 * px : box.y + box.height + 16 * px}
                  textAnchor="middle"
                  fontSize={LETTER_PX * px}
                  fill="currentColor"
                >
                  {one.what}, {one.depth_mm} mm
                </text>
              </g>
            );
          })}
          {plug && (
            <>
              <rect
                {...plug}
                fill="none"
                stroke="currentColor"
                strokeWidth={1.6 * px}
                strokeDasharray={`${6 * px} ${4 * px}`}
              />
              <text
                x={plug.x + plug.width / 2}
                y={
                  plug.y > tall / 2
                    ? plug.y - (keepOuts.some((one) => one.edge === "bottom") ? 24 : 7) * px
                    : plug.y + plug.height + 18 * px
                }
                textAnchor="middle"
                fontSize={LETTER_PX * px}
                fill="currentColor"
              >
                plug, behind
              </text>
            </>
          )}
          <AdhesiveLines state={state} device={device} px={px} />
          <Screws device={device} groups={state.fasteners} now={placing ? [placing] : now} px={px} drawn={drawn} />
        </svg>
      </Box>
      <Typography variant="body2" color="textSecondary">
        Seen from the front, as such devices usually are; the one before you decides. {state.opens}{" "}
        {cable?.choice ? `Cable side: ${cable.step.choices?.[cable.choice] ?? cable.choice}.` : ""}
        {!plug && keepOuts.length === 0 ? "Name the panel at Match, and its plug is drawn." : ""}
      </Typography>
      {groups.map(([id, group], number) => (
        <Typography key={id} variant="body2" sx={{ mt: 0.5, fontWeight: now.includes(id) ? 600 : 400 }}>
          {String.fromCharCode(65 + number)} {group.title}: {group.where}
          {group.drive ? `, ${group.drive}` : ""}. {group.balance.out > 0 ? `${group.balance.out} out. ` : ""}
          {group.caution} {PLACED[group.placed]}
        </Typography>
      ))}
      {groups.length > 0 && !job.closed_at && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}>
          <TextField
            select
            size="small"
            label="Mark where they sit"
            value={placing}
            sx={{ width: 220 }}
            onChange={(event) => {
              setPlacing(event.target.value);
              setDrawn({});
            }}
          >
            <MenuItem value="">Not now</MenuItem>
            {groups.map(([id, group]) => (
              <MenuItem key={id} value={id}>
                {group.title}
              </MenuItem>
            ))}
          </TextField>
          {placing && (
            <>
              <Typography variant="body2" color="textSecondary" sx={{ flex: "1 1 220px" }}>
                Tap the drawing. Tap a screw again: a look-alike hole, inner, outer, then gone.
              </Typography>
              <Button
                size="small"
                onClick={() => {
                  put(placing, []);
                }}
              >
                As is usual
              </Button>
            </>
          )}
          <ErrorNote error={store.error} />
        </Box>
      )}
    </Box>
  );
}
