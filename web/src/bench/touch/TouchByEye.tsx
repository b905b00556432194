// Touch tried by eye: where the device cannot open our page, a person drags over the whole surface and marks what did not answer.

import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { client, type Job, type Stage } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { useProving } from "../prove/useProving";
import { EyeGrid } from "./EyeGrid";
import { cellKey, type Cell } from "./marks";
import { trailOf, TrailPhoto } from "./TrailPhoto";

const HOW = [
  "Move an icon, or draw in a notes or setup screen: slowly, line by line, over the whole surface and along the rims.",
  "Where it stops or the trail has a gap, drag again from the other side: a place that stops both ways is dead, one that stops once was a lifted finger.",
  "Mark what does not answer. Press and move marks several; arrow keys and Space do the same.",
];

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
  const run = job.runs.find((one) => one.stage === stage);
  const trail = trailOf(run)?.report?.trail;
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
      <EyeGrid
        columns={seen.columns}
        rows={seen.rows}
        marked={marked}
        drawn={draft === null ? undefined : new Set(trail?.drawn.map((cell) => cellKey(cell)))}
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
      {draft !== null && run && !locked && (
        <TrailPhoto
          job={job}
          run={run}
          onMark={(cells) => {
            setDraft((before) => new Set([...(before ?? []), ...cells.map(cellKey)]));
          }}
        />
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
