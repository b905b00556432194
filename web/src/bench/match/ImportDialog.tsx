// A file of panels: first what it would change, line by line what cannot be read, then the change.

import { Alert, Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { client, got, type PanelImport } from "../api/client";
import { sendForm } from "../api/files";
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
  const send = useMutation({
    mutationFn: ({ file, dry }: { file: File; dry: boolean }) =>
      sendForm(`/api/${what}/import`, { file, dry: String(dry) }) as Promise<PanelImport>,
    onSuccess: (told) => {
      if (told.applied) onDone();
    },
  });
  const undo = useMutation({
    mutationFn: (run_id: number) =>
      got<{ back: number; kept: number }>(client.POST("/api/imports/{run_id}/undo", { params: { path: { run_id } } })),
    onSuccess: onDone,
  });
  const told = send.data;
  const file = send.variables?.file;
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
            if (chosen) send.mutate({ file: chosen, dry: true });
            event.target.value = "";
          }}
        />
        <Button variant="outlined" disabled={send.isPending} onClick={() => chooser.current?.click()}>
          Choose the file
        </Button>
        <ErrorNote error={send.error} />
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
          <Button
            variant="contained"
            disabled={send.isPending || told.new + told.changed === 0}
            onClick={() => {
              send.mutate({ file, dry: false });
            }}
          >
            Take them in
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
