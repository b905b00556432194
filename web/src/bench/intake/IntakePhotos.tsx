import { Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { Job } from "../api/client";
import { openRun } from "../api/job";
import { LinkDialog } from "../parts/LinkDialog";
import { ErrorNote } from "../parts/notes";
import { PhotoList } from "../parts/PhotoList";
import { Refusals } from "../parts/Refusals";
import { useSending } from "../parts/sending";

/** Photos of the device as it came in: kept as evidence, not measured. */
export function IntakePhotos({ job }: { job: Job }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [linking, setLinking] = useState(false);
  const run = job.runs.find((one) => one.stage === "received");
  const sending = useSending(run);
  const begin = useMutation({
    mutationFn: () => openRun(job.id, "received"),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["job", job.id] }),
  });
  return (
    <Box component="section" aria-label="Photos as received">
      <Typography variant="h2">Photos as received</Typography>
      {!job.closed_at && !run && (
        <Button
          variant="outlined"
          sx={{ mt: 1 }}
          disabled={begin.isPending}
          onClick={() => {
            begin.mutate();
          }}
        >
          Add photos of the device
        </Button>
      )}
      {run && !job.closed_at && (
        <Box
          sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1 }}
          onDragOver={(event) => {
            event.preventDefault();
          }}
          onDrop={(event) => {
            event.preventDefault();
            void sending.send([...event.dataTransfer.files]);
          }}
        >
          <input
            ref={chooser}
            type="file"
            multiple
            hidden
            aria-label="Photos of the device"
            accept="image/*,.heic,.heif,.tif,.tiff"
            onChange={(event) => {
              void sending.send([...(event.target.files ?? [])]);
              event.target.value = "";
            }}
          />
          <Button variant="outlined" onClick={() => chooser.current?.click()}>
            Choose photos
          </Button>
          <Button
            variant="outlined"
            onClick={() => {
              setLinking(true);
            }}
          >
            Phone camera
          </Button>
        </Box>
      )}
      {sending.open > 0 && (
        <Typography role="status" variant="body2">
          Sending {sending.open}.
        </Typography>
      )}
      <Refusals sending={sending} />
      <ErrorNote error={begin.error} />
      {run && run.photos.length > 0 && <PhotoList run={run} closed={Boolean(job.closed_at)} />}
      {linking && run && (
        <LinkDialog
          runId={run.id}
          kind="snap"
          onClose={() => {
            setLinking(false);
          }}
        />
      )}
    </Box>
  );
}
