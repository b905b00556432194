// Seals on the closed device as it goes: where each is and what number it has; asked for when the device comes back.

import { Box, Button, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { client, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { useProving } from "../prove/useProving";

interface SealIn {
  place: string;
  number: string;
  on: boolean;
}

export function Seals({ job }: { job: Job }) {
  const seals = useProving(job.id).data?.seals ?? [];
  const [place, setPlace] = useState("");
  const [number, setNumber] = useState("");
  const put = useJobChange<SealIn>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/proving/seals", { params: { path: { job_id: job.id } }, body }),
  );
  if (job.closed_at && seals.length === 0) return null;
  return (
    <Box component="section" aria-label="Seals" sx={{ my: 2 }}>
      <Typography variant="h2">Seals</Typography>
      {seals.map((one) => (
        <Typography key={one.place} sx={{ mt: 0.5 }}>
          {one.place}: <b>{one.number}</b>{" "}
          {!job.closed_at && (
            <Button
              size="small"
              onClick={() => {
                put.mutate({ place: one.place, number: one.number, on: false });
              }}
            >
              Take back
            </Button>
          )}
        </Typography>
      ))}
      {!job.closed_at && (
        <Box
          component="form"
          sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}
          onSubmit={(event: { preventDefault: () => void }) => {
            event.preventDefault();
            put.mutate(
              { place, number, on: true },
              {
                onSuccess: () => {
                  setPlace("");
                  setNumber("");
                },
              },
            );
          }}
        >
          <TextField
            size="small"
            label="Where the seal is"
            value={place}
            sx={{ width: 180 }}
            slotProps={{ htmlInput: { maxLength: 40 } }}
            onChange={(event) => {
              setPlace(event.target.value);
            }}
          />
          <TextField
            size="small"
            label="Its number"
            value={number}
            sx={{ width: 140 }}
            slotProps={{ htmlInput: { maxLength: 40 } }}
            onChange={(event) => {
              setNumber(event.target.value);
            }}
          />
          <Button type="submit" variant="outlined" disabled={!place.trim() || !number.trim() || put.isPending}>
            Put on
          </Button>
        </Box>
      )}
      <ErrorNote error={put.error} />
    </Box>
  );
}
