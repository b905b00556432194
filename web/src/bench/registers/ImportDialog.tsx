// A file of panels: first what it would change, line by line what cannot be read, then the change.

import {
  Alert,
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  LinearProgress,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, got } from "../api/client";
import { useReading } from "../api/reading";
import { ErrorNote } from "../parts/notes";

const SHOWN = 20;
const DELIMITERS: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars" };

const WHAT = {
  panels: {
    title: "Panels from a file",
    needs:
      "A CSV file with a column part_number; the other columns are those of the export. What a file leaves empty stays as it is.",
  },
  offers: {
    title: "Offers from a file",
    needs:
      "A CSV file with part_number, supplier and price; also freight, currency, grade, delivery_days, warranty_months, doa_days, duty_percent. The panels must be in the register.",
  },
} as const;

export function ImportDialog({
  what = "panels",
  onDone,
  onClose,
}: {
  what?: keyof typeof WHAT;
  onDone: () => void;
  onClose: () => void;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const [source, setSource] = useState("typed");
  const [file, setFile] = useState<File | null>(null);
  const read = useReading(what, ({ table }) => {
    if (table?.applied) onDone();
  });
  const undo = useMutation({
    mutationFn: (run_id: number) =>
      got<{ back: number; kept: number }>(client.POST("/api/imports/{run_id}/undo", { params: { path: { run_id } } })),
    onSuccess: onDone,
  });
  const { busy, reading } = read;
  const told = busy ? null : reading?.table;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>{WHAT[what].title}</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 1 }}>{WHAT[what].needs}</Typography>
        <input
          ref={chooser}
          type="file"
          hidden
          aria-label="CSV file"
          accept=".csv,.txt,text/csv"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) {
              setFile(chosen);
              read.send(chosen, { source });
            }
            event.target.value = "";
          }}
        />
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
          {what === "panels" && (
            <TextField
              select
              size="small"
              label="The list is"
              value={source}
              disabled={busy || Boolean(told)}
              sx={{ minWidth: 200 }}
              helperText="What was measured or read from a label stays either way"
              onChange={(event) => {
                setSource(event.target.value);
              }}
            >
              <MenuItem value="typed">our own</MenuItem>
              <MenuItem value="supplier">a supplier&apos;s</MenuItem>
            </TextField>
          )}
          <Button variant="outlined" disabled={busy} onClick={() => chooser.current?.click()}>
            Choose the file
          </Button>
        </Box>
        <ErrorNote error={read.error} />
        {busy && (
          <Box role="status" sx={{ mt: 2 }}>
            <Typography variant="body2">
              {reading?.of ? `${reading.rows} of ${reading.of} lines` : "Reading the file"}
            </Typography>
            <LinearProgress
              aria-label="Lines read"
              {...(reading?.of
                ? { variant: "determinate" as const, value: (100 * reading.rows) / reading.of }
                : { variant: "indeterminate" as const })}
            />
          </Box>
        )}
        {told && file && (
          <Box role="status" sx={{ mt: 2 }}>
            <Typography>
              {file.name}: {told.rows} {what}, separated by {DELIMITERS[told.delimiter] ?? told.delimiter}.
            </Typography>
            <Typography sx={{ fontWeight: 600 }}>
              {told.applied ? "Taken in: " : "It would add "}
              {told.new} new{told.applied ? "," : " and change "} {told.changed}
              {told.applied ? " changed" : ""}; {told.same} are there already.
            </Typography>
            {told.kept > 0 && (
              <Typography variant="body2">
                {told.kept} {told.kept === 1 ? "value stays as it is" : "values stay as they are"}: yours came from a
                stronger source.
              </Typography>
            )}
            {told.applied && told.run !== null && !undo.data && (
              <Button
                size="small"
                disabled={undo.isPending}
                onClick={() => {
                  if (told.run !== null) undo.mutate(told.run);
                }}
              >
                Take this import back
              </Button>
            )}
            {undo.data && (
              <Typography>
                Taken back: {undo.data.back}
                {undo.data.kept > 0 ? `; ${undo.data.kept} stay, somebody changed them since` : ""}.
              </Typography>
            )}
            <ErrorNote error={undo.error} />
            {told.faults.length > 0 && (
              <Alert severity="warning" variant="outlined" sx={{ mt: 1 }}>
                {told.faults.length} {told.faults.length === 1 ? "line is" : "lines are"} left out:
                {told.faults.slice(0, SHOWN).map((fault) => (
                  <Typography key={fault.line} variant="body2" sx={{ overflowWrap: "anywhere" }}>
                    Line {fault.line}: {fault.text}
                  </Typography>
                ))}
                {told.faults.length > SHOWN && <Typography variant="body2">and more.</Typography>}
              </Alert>
            )}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>{told?.applied ? "Close" : "Cancel"}</Button>
        {told && !told.applied && file && (
          <Button variant="contained" disabled={told.new + told.changed === 0} onClick={read.takeIn}>
            Take them in
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
