// Where the device in hand leaves the procedure: a part of another one taken in, or a way of the shop's own from here.

import { Alert, Box, Button, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { client, type FitState, type Job } from "../api/client";
import { useMe } from "../api/hooks";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";

export function OtherWays({ job, state }: { job: Job; state: FitState }) {
  const me = useMe();
  const [differs, setDiffers] = useState<string | null>(null);
  const at = { params: { path: { job_id: job.id } } };
  const take = useJobChange<string>(job.id, (sub) =>
    client.POST("/api/jobs/{job_id}/fit/sub", { ...at, body: { sub } }),
  );
  const leave = useJobChange<null>(job.id, () => client.DELETE("/api/jobs/{job_id}/fit/sub", at));
  const fork = useJobChange<string>(job.id, (words) =>
    client.POST("/api/jobs/{job_id}/fit/fork", { ...at, body: { differs: words } }),
  );
  const tell = useJobChange<string>(job.id, (words) =>
    client.POST("/api/jobs/{job_id}/fit/notes", {
      ...at,
      body: { step: "", text: `Built differently: ${words}`, place: "", was_so: true, consent_needed: false },
    }),
  );
  const lead = me.data?.roles.includes("lead") ?? false;
  const plugged = state.steps.some((entry) => entry.step.id === "plug" && entry.state === "done");
  if (job.closed_at || !state.title) return null;
  return (
    <Box component="section" aria-label="Other ways" sx={{ mt: 1 }}>
      {state.subs_taken.map((one) => (
        <Alert
          key={one.id}
          severity="info"
          variant="outlined"
          sx={{ mb: 1 }}
          action={
            <Button
              color="inherit"
              onClick={() => {
                leave.mutate(null);
              }}
            >
              Leave it
            </Button>
          }
        >
          Under way: {one.title.toLowerCase()}.
        </Alert>
      ))}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {plugged &&
          state.subs.map((one) => (
            <Button
              key={one.id}
              size="small"
              onClick={() => {
                take.mutate(one.id);
              }}
            >
              Take in: {one.title.toLowerCase()}
            </Button>
          ))}
        {differs === null && (
          <Button
            size="small"
            onClick={() => {
              setDiffers("");
            }}
          >
            This one is built a little differently
          </Button>
        )}
      </Box>
      {differs !== null && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mt: 1 }}>
          <TextField
            size="small"
            label="What is different"
            value={differs}
            autoFocus
            sx={{ flex: "1 1 240px" }}
            slotProps={{ htmlInput: { maxLength: 120 } }}
            onChange={(event) => {
              setDiffers(event.target.value);
            }}
          />
          <Button
            variant="outlined"
            disabled={!differs.trim()}
            onClick={() => {
              (lead ? fork : tell).mutate(differs, {
                onSuccess: () => {
                  setDiffers(null);
                },
              });
            }}
          >
            {lead ? "A way of our own from here" : "Note it for the lead"}
          </Button>
          <Button
            onClick={() => {
              setDiffers(null);
            }}
          >
            Not now
          </Button>
          <Typography variant="body2" color="textSecondary" sx={{ flexBasis: "100%" }}>
            {lead
              ? "What was done stays. The job and its device follow the new way; edit it under Settings, Procedures."
              : "It is kept with the job; a lead makes it a way of the shop's own."}
          </Typography>
        </Box>
      )}
      <ErrorNote error={take.error ?? leave.error ?? fork.error ?? tell.error} />
    </Box>
  );
}
