// A photo of the trail that a person drew on the device: the bench finds the lines, and offers the places where they stop side by side.

import { Box, Button, Typography } from "@mui/material";
import { useRef, useState } from "react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { Job, Photo, Run } from "../api/client";
import { sendPhoto } from "../api/files";
import { newKey } from "../../common/key";
import { TRAIL } from "../parts/filed";
import { CornersDialog } from "../parts/CornersDialog";
import { OnePhoto } from "../parts/OnePhoto";
import { ErrorNote, Waiting } from "../parts/notes";
import type { Cell } from "./marks";

const CORNERS = "trail_corners";

export const trailOf = (run: Run | undefined): Photo | undefined =>
  run?.photos.filter((photo) => photo.pattern_given === TRAIL && !photo.removed).at(-1);

export function TrailPhoto({ job, run, onMark }: { job: Job; run: Run; onMark: (cells: Cell[]) => void }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [corners, setCorners] = useState(false);
  const send = useMutation({
    mutationFn: (file: File) => sendPhoto(run.id, file, newKey(), TRAIL),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["job", job.id] }),
  });
  const photo = trailOf(run);
  const waiting = send.isPending || (photo && ["queued", "reading"].includes(photo.status));
  const trail = waiting ? undefined : photo?.report?.trail;
  const problem = waiting || trail ? undefined : photo?.report?.problems[0];
  return (
    <Box component="section" aria-label="Photo of the trail" sx={{ mb: 1 }}>
      <OnePhoto
        ref={chooser}
        label="Photo of the trail"
        onFile={(file) => {
          send.mutate(file);
        }}
      />
      <Typography variant="body2" color="textSecondary">
        Drawn on a blank page, the trail can be photographed, the whole screen in it: the bench finds where lines stop
        side by side.
      </Typography>
      {waiting && <Waiting words="Reading the trail" />}
      {trail && (
        <Typography role="status">
          {trail.lines} lines.{" "}
          {trail.broken.length > 0
            ? `They stop side by side at ${trail.broken.length} ${trail.broken.length === 1 ? "place" : "places"}.`
            : "No three of them stop side by side."}
        </Typography>
      )}
      {problem && <Typography role="alert">{problem.message}</Typography>}
      <ErrorNote error={send.error} />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {trail && trail.broken.length > 0 && (
          <Button
            variant="outlined"
            onClick={() => {
              onMark(trail.broken);
            }}
          >
            {trail.broken.length === 1 ? "Mark this place" : "Mark these places"}
          </Button>
        )}
        {problem?.code === CORNERS && (
          <Button
            variant="outlined"
            onClick={() => {
              setCorners(true);
            }}
          >
            Give the corners
          </Button>
        )}
        <Button disabled={send.isPending} onClick={() => chooser.current?.click()}>
          {photo ? "Another photo of the trail" : "Photo of the trail"}
        </Button>
      </Box>
      {corners && photo && (
        <CornersDialog
          photo={photo}
          run={run}
          onClose={() => {
            setCorners(false);
          }}
        />
      )}
    </Box>
  );
}
