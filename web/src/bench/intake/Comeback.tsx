// What a device that came back is asked: are its seals as they left, and who pays. The program proposes with its reasons, a person decides.

import { Box, Button, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useState } from "react";
import { client, type Before as WasBefore, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";

type Earlier = WasBefore["earlier"][number];
const STATES = [
  ["whole", "Whole"],
  ["broken", "Broken"],
  ["gone", "Gone"],
  ["other", "Other number"],
] as const;

function SealChecks({ job, earlier }: { job: Job; earlier: Earlier }) {
  const find = useJobChange<{ place: string; state: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/before/seals", { params: { path: { job_id: job.id } }, body }),
  );
  return (
    <>
      {earlier.seals.map((one) => (
        <Box key={one.place} sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mt: 0.5 }}>
          <Typography variant="body2" sx={{ minWidth: 160 }}>
            Seal {one.number}, {one.place}
          </Typography>
          <ToggleButtonGroup
            exclusive
            size="small"
            disabled={Boolean(job.closed_at)}
            aria-label={`Seal ${one.number}`}
            value={one.state}
            onChange={(_, state: string | null) => {
              if (state) find.mutate({ place: one.place, state });
            }}
          >
            {STATES.map(([id, title]) => (
              <ToggleButton key={id} value={id}>
                {title}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Box>
      ))}
      <ErrorNote error={find.error} />
    </>
  );
}

export function Comeback({ job, earlier, payers }: { job: Job; earlier: Earlier; payers: Record<string, string> }) {
  const [payer, setPayer] = useState<string | null>(null);
  const [reason, setReason] = useState("");
  const decide = useJobChange<{ earlier_id: number; charged_to: string; reason: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/before/charge", { params: { path: { job_id: job.id } }, body }),
  );
  const { proposed } = earlier;
  const chosen = payer ?? (earlier.charged_to || proposed.payer);
  return (
    <Box sx={{ mt: 1 }}>
      <SealChecks job={job} earlier={earlier} />
      <Typography sx={{ mt: 1 }}>
        <b>Who pays:</b> {payers[earlier.charged_to || proposed.payer]}
        {earlier.charged_to ? ", decided." : ", proposed."} {earlier.charge_reason}
      </Typography>
      <Typography variant="body2" color="textSecondary">
        {proposed.reasons.join(" ")} {proposed.step} What the law gives the owner comes first.
      </Typography>
      {!job.closed_at && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}>
          <TextField
            select
            size="small"
            label="Charged to"
            value={chosen}
            sx={{ width: 260 }}
            onChange={(event) => {
              setPayer(event.target.value);
            }}
          >
            {Object.entries(payers).map(([id, title]) => (
              <MenuItem key={id} value={id}>
                {title}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            label="Why"
            value={reason}
            sx={{ flex: "1 1 160px" }}
            slotProps={{ htmlInput: { maxLength: 300 } }}
            onChange={(event) => {
              setReason(event.target.value);
            }}
          />
          <Button
            variant="outlined"
            disabled={decide.isPending}
            onClick={() => {
              decide.mutate(
                { earlier_id: earlier.job_id, charged_to: chosen, reason },
                {
                  onSuccess: () => {
                    setReason("");
                  },
                },
              );
            }}
          >
            Decide
          </Button>
        </Box>
      )}
      <ErrorNote error={decide.error} />
    </Box>
  );
}
