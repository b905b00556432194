// What the owner reports, ticked: it counts as evidence that was told, and Isolate does not ask for it again.

import { Box, Chip, Typography } from "@mui/material";
import type { Vocabulary } from "../api/client";

/** Questions that an owner can answer at the counter. */
const TOLD = ["first_look", "onset", "opened_before"];
export type Reports = Readonly<Record<string, string>>;

export function Reported({
  vocabulary,
  device,
  reports,
  disabled = false,
  onReport,
}: {
  vocabulary: Vocabulary;
  device: string;
  reports: Reports;
  disabled?: boolean;
  onReport: (check: string, outcome: string | null) => void;
}) {
  const asked = TOLD.flatMap((id) =>
    vocabulary.checks.filter((check) => check.id === id && check.devices.includes(device)),
  );
  return (
    <Box role="group" aria-label="Reported by the owner">
      {asked.map((check) => (
        <Box key={check.id} sx={{ mb: 1 }}>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
            {check.title}
          </Typography>
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.75 }}>
            {check.outcomes.map((outcome) => {
              const ticked = reports[check.id] === outcome.id;
              return (
                <Chip
                  key={outcome.id}
                  label={outcome.title}
                  color={ticked ? "primary" : "default"}
                  variant={ticked ? "filled" : "outlined"}
                  aria-pressed={ticked}
                  disabled={disabled}
                  onClick={() => {
                    onReport(check.id, ticked ? null : outcome.id);
                  }}
                  sx={{ minHeight: 36, borderRadius: 1 }}
                />
              );
            })}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
