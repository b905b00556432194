// The device as it lies on the bench, seen from the front: where the cable runs, where no pick may go, where the screws of each group sit; or a photo
// of it with its screws.

import { Box, Button, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { plugBox, unitsPerMm } from "../../pane/drawings";
import { client, got, type FitState, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { AdhesiveLines, Screws, type DeviceBox } from "./FitMarks";
import { KeepOutNotes, KeepOutStrips } from "./KeepOuts";
import { PhotoPlaces } from "./PhotoPlaces";
import { photosOf, placedOn, tapped, type Spot } from "./placing";
import { TapSurface } from "./TapSurface";

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
  here: "Marked on this device",
  last_time: "Marked on the last one",
  usual: "",
};

export function FitDrawing({ job }: { job: Job }) {
  const fit = useQuery({
    queryKey: ["job", job.id, "fit"],
    queryFn: () => got<FitState>(client.GET("/api/jobs/{job_id}/fit", { params: { path: { job_id: job.id } } })),
  });
  const [placing, setPlacing] = useState("");
  const [photo, setPhoto] = useState<number | null>(null);
  const [drawn, setDrawn] = useState<Record<string, Spot[]>>({});
  const store = useJobChange<{ group: string; places: Spot[]; photo_id: number | null }>(job.id, ({ group, ...body }) =>
    client.PUT("/api/jobs/{job_id}/fit/places/{group}", { params: { path: { job_id: job.id, group } }, body }),
  );
  const state = fit.data;
  if (!state?.title) return null;
  const photos = photosOf(state);
  const shown = photo !== null && photos.includes(photo) ? photo : null;
  const put = (group: string, places: Spot[]) => {
    setDrawn({ ...drawn, [group]: places });
    store.mutate({ group, places, photo_id: shown });
  };
  const place = (group: string, x: number, y: number, aspect: number) => {
    const known = state.fasteners[group];
    // the usual places are a guess, and those of another picture mean nothing here: the first tap begins anew
    const before = known && known.placed !== "usual" && (known.photo_id ?? null) === shown ? known.spots : [];
    put(group, tapped(drawn[group] ?? before, x, y, aspect));
  };
  const spec = state.panel;
  const tall = Math.min(WIDE * (job.panel_height / job.panel_width), 2.2 * WIDE);
  const device: DeviceBox = { x: ROOM, y: ROOM, width: WIDE, height: tall };
  const whole = { w: WIDE + 2 * ROOM, h: tall + 2 * ROOM };
  const plug = spec?.connector_side
    ? plugBox(device, spec.connector_side, spec.connector_edge ?? "bottom", "front")
    : null;
  const cable = state.steps.find((entry) => entry.step.id === "cable_side");
  const px = Math.max(whole.w / SHOWN_W, whole.h / SHOWN_H);
  const groups = Object.entries(state.fasteners);
  const now = inHand(state);
  const keepOuts = state.keep_outs;
  const onThis = placedOn(state.fasteners, shown);
  return (
    <Box
      component="section"
      aria-label="Where things are"
      sx={{ mt: 1.5, "--drawing-ground": (theme) => theme.palette.background.default }}
    >
      {photos.length > 0 && (
        <ToggleButtonGroup
          exclusive
          size="small"
          aria-label="Shown"
          value={shown ?? 0}
          sx={{ mb: 1, flexWrap: "wrap" }}
          onChange={(_, value: number | null) => {
            if (value === null) return;
            setPhoto(value || null);
            setDrawn({});
          }}
        >
          <ToggleButton value={0}>Drawing</ToggleButton>
          {photos.map((id, number) => (
            <ToggleButton key={id} value={id}>
              Photo {number + 1}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      )}
      {shown !== null ? (
        <PhotoPlaces
          key={shown}
          photoId={shown}
          groups={onThis}
          drawn={drawn}
          placing={placing}
          now={now}
          onTap={(x, y, aspect) => {
            place(placing, x, y, aspect);
          }}
        />
      ) : (
        <Box sx={{ color: "text.primary" }}>
          <TapSurface
            wide={whole.w}
            high={whole.h}
            box={device}
            label="The device from the front: cable, keep-outs and screws"
            tapping={Boolean(placing)}
            onTap={(x, y) => {
              place(placing, x, y, job.panel_height / job.panel_width);
            }}
          >
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
            <KeepOutStrips
              device={device}
              places={keepOuts}
              scale={unitsPerMm(WIDE, job.panel_width, job.panel_height, job.diagonal_in ?? null)}
              px={px}
            />
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
            <Screws device={device} groups={onThis} now={placing ? [placing] : now} px={px} drawn={drawn} />
          </TapSurface>
        </Box>
      )}
      <Typography variant="body2" color="textSecondary">
        {shown === null && "Seen from the front, as such devices usually are; the one before you decides. "}
        {state.opens} {cable?.choice ? `Cable side: ${cable.step.choices?.[cable.choice] ?? cable.choice}.` : ""}
        {!plug && keepOuts.length === 0 ? "Name the panel at Match, and its plug is drawn." : ""}
      </Typography>
      {groups.map(([id, group], number) => (
        <Typography key={id} variant="body2" sx={{ mt: 0.5, fontWeight: now.includes(id) ? 600 : 400 }}>
          {String.fromCharCode(65 + number)} {group.title}: {group.where}
          {group.drive ? `, ${group.drive}` : ""}. {group.balance.out > 0 ? `${group.balance.out} out. ` : ""}
          {group.caution} {PLACED[group.placed] ? `${PLACED[group.placed]}${group.photo_id ? "'s photo" : ""}.` : ""}
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
                Tap the {shown === null ? "drawing" : "photo"}. Tap a screw again: a look-alike hole, inner, outer, then
                gone.
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
      <KeepOutNotes job={job} places={keepOuts} />
    </Box>
  );
}
