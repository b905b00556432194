// The serial number of the panel that is fitted: with supplier, grade and order it tells where the part came from.

import { Box, TextField } from "@mui/material";
import { client, Problem, type Job, type JobChange } from "../api/client";
import { useJobChange } from "../api/job";
import { useStoredField } from "../intake/useStoredField";
import { ErrorNote } from "../parts/notes";

export function PanelSerial({ job }: { job: Job }) {
  const save = useJobChange<JobChange>(job.id, (body) =>
    client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job.id } }, body }),
  );
  const serial = useStoredField(job, "panel_serial", (values, answer) => {
    save.mutate(values, {
      onSuccess: (stored) => {
        answer.stored((stored as Job).version);
      },
      onError: (error) => {
        answer.failed(error instanceof Problem && error.status === 409);
      },
    });
  });
  return (
    <Box sx={{ my: 1.5 }}>
      <TextField
        label="Serial number of the new panel"
        {...serial}
        disabled={Boolean(job.closed_at)}
        sx={{ maxWidth: 320 }}
        slotProps={{ htmlInput: { maxLength: 60 } }}
      />
      <ErrorNote error={save.error} />
    </Box>
  );
}
