// The back of a panel in a photo, with a bank card on it: what can be measured goes into the form, what cannot is said.

import { Box, Button, Typography } from "@mui/material";
import { useRef } from "react";
import { useReading } from "../api/reading";
import { OnePhoto } from "../parts/OnePhoto";
import { ErrorNote, Waiting } from "../parts/notes";
import { fieldsOfBack, type Texts } from "./specFields";

export function BackPhoto({ onRead }: { onRead: (texts: Texts) => void }) {
  const chooser = useRef<HTMLInputElement>(null);
  const read = useReading("back", ({ back }) => {
    if (back) onRead(fieldsOfBack(back));
  });
  const told = read.reading?.back;
  return (
    <Box sx={{ mb: 2 }}>
      <OnePhoto
        ref={chooser}
        label="Photo of the panel's back"
        onFile={(file) => {
          read.send(file);
        }}
      />
      <Button variant="outlined" disabled={read.busy} onClick={() => chooser.current?.click()}>
        Measure it from a photo of its back
      </Button>
      <Typography variant="body2" color="textSecondary" sx={{ mt: 0.5 }}>
        All of the back on a plain desk, label upright, a bank card lying flat near its middle. The photo is not kept.
      </Typography>
      {read.busy && <Waiting words="Measuring, some seconds" />}
      <ErrorNote error={read.error} />
      {told && (
        <Box role="status" sx={{ mt: 1 }}>
          {told.outline_mm && (
            <Typography variant="body2">
              Outline {told.outline_mm[0]} x {told.outline_mm[1]} mm, to within {told.uncertainty_mm} mm. Filled in
              below: look at it before you save.
            </Typography>
          )}
          {told.problems.map((problem) => (
            <Typography key={problem.code} variant="body2" color="warning">
              {problem.message}
            </Typography>
          ))}
        </Box>
      )}
    </Box>
  );
}
