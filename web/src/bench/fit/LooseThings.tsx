// What is out, and what nobody can find: no power while something is lost.

import { Box, Button, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { client, type FitState, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";

export function LooseThings({ job, state }: { job: Job; state: FitState }) {
  const [asking, setAsking] = useState(false);
  const [text, setText] = useState("1");
  const tell = useJobChange<number>(job.id, (count) =>
    client.POST("/api/jobs/{job_id}/fit/loose", { params: { path: { job_id: job.id } }, body: { count } }),
  );
  const out = Object.entries(state.out).map(([group, count]) => `${count} ${group.replaceAll("_", " ")}`);
  const count = /^\d{1,4}$/.test(text.trim()) ? Number(text.trim()) : null;
  return (
    <Box sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <Typography variant="body2" color={state.unaccounted ? "error" : "textSecondary"}>
          {out.length > 0 ? `Out: ${out.join(", ")} screws.` : "No screws are out."}
          {state.unaccounted > 0 ? ` Not accounted for: ${state.unaccounted}. No power before each is found.` : ""}
        </Typography>
        {Object.keys(state.fasteners).length > 0 && (
          <Button size="small" component="a" href={`/api/jobs/${job.id}/fit/screws.pdf`} target="_blank" rel="noopener">
            Sheet for the screws
          </Button>
        )}
        {!job.closed_at &&
          (state.unaccounted > 0 ? (
            <Button
              size="small"
              onClick={() => {
                tell.mutate(0);
              }}
            >
              All found
            </Button>
          ) : (
            <Button
              size="small"
              onClick={() => {
                setAsking(!asking);
              }}
            >
              Something is lost
            </Button>
          ))}
      </Box>
      {asking && state.unaccounted === 0 && !job.closed_at && (
        <Box sx={{ display: "flex", gap: 1, mt: 1, alignItems: "center" }}>
          <TextField
            size="small"
            label="How many"
            value={text}
            sx={{ width: 110 }}
            slotProps={{ htmlInput: { inputMode: "numeric", maxLength: 4 } }}
            onChange={(event) => {
              setText(event.target.value);
            }}
          />
          <Button
            variant="outlined"
            disabled={!count}
            onClick={() => {
              if (count)
                tell.mutate(count, {
                  onSuccess: () => {
                    setAsking(false);
                  },
                });
            }}
          >
            Nobody finds them
          </Button>
        </Box>
      )}
      <ErrorNote error={tell.error} />
    </Box>
  );
}
