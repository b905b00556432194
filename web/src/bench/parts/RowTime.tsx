// The camera's time for one row turns the bars' period into a frequency: typed, or learned from a lamp whose pulses are known.

import { Box, Button, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, type Run } from "../api/client";
import { sendLamp } from "../api/files";
import { useJobChange } from "../api/job";
import { ErrorNote } from "./notes";

const ON_50_HZ_MAINS = "100";
const numberOf = (text: string) => Number(text.replace(",", "."));

export function RowTime({ run, canSimulate }: { run: Run; canSimulate: boolean }) {
  const queries = useQueryClient();
  const known = run.row_time_us;
  const [typed, setTyped] = useState<string | null>(null);
  const [hz, setHz] = useState(ON_50_HZ_MAINS);
  const chooser = useRef<HTMLInputElement>(null);
  const text = typed ?? (known ? String(known) : "");
  const change = useJobChange<number | null>(run.job_id, (value) =>
    client.POST("/api/runs/{run_id}/camera", { params: { path: { run_id: run.id } }, body: { row_time_us: value } }),
  );
  const forget = {
    onSuccess: () => {
      setTyped(null);
      void queries.invalidateQueries({ queryKey: ["job", run.job_id] });
    },
  };
  const learn = useMutation({ mutationFn: (file: File) => sendLamp(run.id, file, numberOf(hz)), ...forget });
  const simulate = useJobChange<null>(run.job_id, () =>
    client.POST("/api/runs/{run_id}/simulate/lamp", { params: { path: { run_id: run.id } } }),
  );
  const value = numberOf(text);
  const ready = text.trim() === "" ? known !== null : value > 0 && value !== known;
  const pulses = numberOf(hz);
  return (
    <Box
      component="form"
      sx={{ my: 1 }}
      onSubmit={(event: { preventDefault: () => void }) => {
        event.preventDefault();
        if (ready) change.mutate(text.trim() === "" ? null : value, forget);
      }}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <TextField
          size="small"
          label="Camera's time for one row, µs"
          value={text}
          onChange={(event) => {
            setTyped(event.target.value);
          }}
          slotProps={{ htmlInput: { inputMode: "decimal", maxLength: 8 } }}
          sx={{ width: 210 }}
        />
        <Button type="submit" variant="outlined" disabled={!ready}>
          Tell the frequency
        </Button>
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mt: 1.5 }}>
        <TextField
          size="small"
          label="Lamp's pulses a second"
          value={hz}
          error={!(pulses > 0)}
          onChange={(event) => {
            setHz(event.target.value);
          }}
          slotProps={{ htmlInput: { inputMode: "decimal", maxLength: 8 } }}
          sx={{ width: 210 }}
        />
        <input
          ref={chooser}
          type="file"
          hidden
          aria-label="Photo of a lamp's light"
          accept="image/*,.heic,.heif"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) learn.mutate(file);
            event.target.value = "";
          }}
        />
        <Button disabled={!(pulses > 0) || learn.isPending} onClick={() => chooser.current?.click()}>
          Learn it from a lamp
        </Button>
        {canSimulate && (
          <Button
            disabled={simulate.isPending}
            onClick={() => {
              simulate.mutate(null, forget);
            }}
          >
            Simulated camera: lamp of 100
          </Button>
        )}
      </Box>
      <Typography variant="body2" color="textSecondary">
        White paper under a mains lamp, close, out of focus, 1/250 s or shorter, with this same camera. It pulses 100
        times a second on 50 Hz mains, 120 on 60 Hz.
      </Typography>
      <ErrorNote error={change.error ?? learn.error ?? simulate.error} />
    </Box>
  );
}
