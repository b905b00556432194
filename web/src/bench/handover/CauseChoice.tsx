// What a job turned out to be: the causes by how likely they were, each with a mark to tick.

import { Box, Button, Checkbox, FormControlLabel, Typography } from "@mui/material";
import { useState } from "react";
import type { Job } from "../api/client";

const SHOWN = 6,
  MOST = 5;

export function CauseChoice({
  causes,
  chosen,
  onChange,
}: {
  causes: Job["diagnosis"]["causes"];
  chosen: readonly string[];
  onChange: (to: string[]) => void;
}) {
  const [all, setAll] = useState(false);
  const shown = causes.filter((cause, index) => all || index < SHOWN || chosen.includes(cause.id));
  return (
    <Box component="fieldset" sx={{ border: 0, m: 0, p: 0 }}>
      <Typography component="legend" variant="h3">
        What it turned out to be
      </Typography>
      <Typography variant="body2" color="textSecondary">
        The likeliest first. It counts in the shop&apos;s own statistics; tick nothing when nobody knows.
      </Typography>
      {shown.map((cause) => (
        <Box key={cause.id} sx={{ display: "flex", alignItems: "center", borderTop: 1, borderColor: "divider" }}>
          <FormControlLabel
            sx={{ flex: 1, minHeight: 44, mr: 0 }}
            label={cause.title}
            control={
              <Checkbox
                checked={chosen.includes(cause.id)}
                disabled={!chosen.includes(cause.id) && chosen.length >= MOST}
                onChange={(event) => {
                  onChange(event.target.checked ? [...chosen, cause.id] : chosen.filter((other) => other !== cause.id));
                }}
              />
            }
          />
          <Typography variant="body2" color="textSecondary">
            {Math.min(99, Math.round(100 * cause.p))} %
          </Typography>
        </Box>
      ))}
      {!all && causes.length > shown.length && (
        <Button
          onClick={() => {
            setAll(true);
          }}
        >
          Show all {causes.length}
        </Button>
      )}
    </Box>
  );
}
