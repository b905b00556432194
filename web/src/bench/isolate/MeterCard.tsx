// White as a meter reads it: typed, or from the meter's own file.

import { Box, Button, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, type Job } from "../api/client";
import { sendToJob } from "../api/files";
import { applyAnswer } from "../api/facets";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";

export function MeterEntry({ job, onDone }: { job: Job; onDone: () => void }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [text, setText] = useState("");
  const value = Number(text.replace(",", "."));
  const typed = useJobChange<number>(job.id, (cd_m2) =>
    client.POST("/api/jobs/{job_id}/luminance", { params: { path: { job_id: job.id } }, body: { cd_m2 } }),
  );
  const simulate = useJobChange<null>(job.id, () =>
    client.POST("/api/jobs/{job_id}/simulate/meter", { params: { path: { job_id: job.id } } }),
  );
  const send = useMutation({
    mutationFn: (file: File) => sendToJob(job.id, "readings", file),
    onSuccess: (told) => {
      applyAnswer(queries, job.id, told);
      onDone();
    },
  });
  const closed = Boolean(job.closed_at);
  return (
    <Box
      component="form"
      sx={{ mb: 1 }}
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        if (text.trim() && value >= 0) typed.mutate(value, { onSuccess: onDone });
      }}
    >
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="File of the meter"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) send.mutate(file);
          event.target.value = "";
        }}
      />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <TextField
          label="White, cd/m²"
          value={text}
          disabled={closed}
          onChange={(event) => {
            setText(event.target.value);
          }}
          sx={{ width: 130 }}
          slotProps={{ htmlInput: { inputMode: "decimal", maxLength: 8 } }}
        />
        <Button type="submit" variant="contained" disabled={closed || !text.trim() || !(value >= 0)}>
          Put it down
        </Button>
        <Button disabled={closed} onClick={() => chooser.current?.click()}>
          File of the meter
        </Button>
        {job.can_simulate && (
          <Button
            disabled={closed}
            onClick={() => {
              simulate.mutate(null, { onSuccess: onDone });
            }}
          >
            Simulated meter: read it
          </Button>
        )}
      </Box>
      <Typography variant="body2" color="textSecondary">
        CGATS.17 or CSV. Or answer by hand:
      </Typography>
      <ErrorNote error={typed.error ?? send.error ?? simulate.error} />
    </Box>
  );
}

export function MeterWords({ job }: { job: Job }) {
  if (!job.readings) return null;
  const { white_cd_m2, nominal_cd_m2, nominal_on_record } = job.readings;
  return (
    <Typography variant="body2" sx={{ mt: 2 }}>
      Meter: white gives {white_cd_m2.toFixed(0)} cd/m², {((100 * white_cd_m2) / nominal_cd_m2).toFixed(0)} % of{" "}
      {nominal_on_record ? "the panel's nominal" : "a usual panel's"} {nominal_cd_m2.toFixed(0)}.
    </Typography>
  );
}
