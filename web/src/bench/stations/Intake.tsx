import { Box, MenuItem, TextField, Typography } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { client, type Job, type JobChange } from "../api/client";
import { useJobChange, useVocabulary } from "../api/hooks";
import { ErrorNote } from "../parts/notes";
import { IntakePhotos } from "../parts/IntakePhotos";
import { RecordList } from "../parts/RecordList";

type Field = Exclude<keyof JobChange, "version">;
const SAVE_AFTER_MS = 700;

/** A field that stores itself; what is being typed is never overwritten by what comes from the server. */
function useField(job: Job, field: Field, save: (change: Partial<JobChange>, done: () => void) => void) {
  const kept = job[field];
  const stored = kept === null || kept === undefined ? "" : String(kept);
  const [draft, setDraft] = useState<string | null>(null);
  const timer = useRef(0);
  useEffect(() => () => { clearTimeout(timer.current); }, []);
  const send = (value: string) => {
    clearTimeout(timer.current);
    if (value === stored) return;
    const number = ["panel_width", "panel_height", "diagonal_in"].includes(field);
    if (number && value.trim() === "" && field !== "diagonal_in") return;
    const change = number ? (value.trim() === "" ? null : Number(value.replace(",", "."))) : value;
    save({ [field]: change }, () => { setDraft((now) => (now === value ? null : now)); });
  };
  return {
    value: draft ?? stored,
    disabled: Boolean(job.closed_at),
    onChange: (event: { target: { value: string } }) => {
      const value = event.target.value;
      setDraft(value);
      clearTimeout(timer.current);
      timer.current = window.setTimeout(() => { send(value); }, SAVE_AFTER_MS);
    },
    onBlur: () => { if (draft !== null) send(draft); },
  };
}

export function Intake({ job }: { job: Job }) {
  const vocabulary = useVocabulary();
  const change = useJobChange<Partial<JobChange>>(job.id, (values, version) => client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job.id } }, body: { ...values, version } }));
  const save = (values: Partial<JobChange>, done: () => void) => { change.mutate(values, { onSuccess: done }); };
  const title = useField(job, "title", save);
  const owner = useField(job, "owner", save);
  const complaint = useField(job, "complaint", save);
  const damage = useField(job, "visible_damage", save);
  const kept = useField(job, "accessories", save);
  const device = useField(job, "device_type", save);
  const width = useField(job, "panel_width", save);
  const height = useField(job, "panel_height", save);
  const diagonal = useField(job, "diagonal_in", save);
  const profile = useField(job, "profile", save);
  return (
    <Box sx={{ display: "grid", gap: 1.75 }}>
      <Typography role="status" variant="body2" color="textSecondary">{change.isPending ? "Saving" : change.isError ? "Not saved; what you typed is still here." : "Everything is saved as you type."}</Typography>
      <ErrorNote error={change.error} onClose={() => { change.reset(); }} />
      <TextField label="Device" {...title} slotProps={{ htmlInput: { maxLength: 120 } }} />
      <TextField label="Owner" {...owner} slotProps={{ htmlInput: { maxLength: 120 } }} />
      <TextField label="Complaint, in the owner's words" multiline minRows={2} {...complaint} slotProps={{ htmlInput: { maxLength: 2000 } }} />
      <TextField label="Visible damage, signs of earlier repair" multiline {...damage} slotProps={{ htmlInput: { maxLength: 2000 } }} />
      <TextField label="Accessories kept back" {...kept} slotProps={{ htmlInput: { maxLength: 300 } }} />
      <TextField select label="Kind of device" {...device}>
        {(vocabulary.data?.devices ?? [job.device_type]).map((id) => <MenuItem key={id} value={id}>{id.replace(/_/g, " ")}</MenuItem>)}
      </TextField>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1.5 }}>
        <TextField label="Panel width (px)" inputMode="numeric" {...width} />
        <TextField label="Height (px)" inputMode="numeric" {...height} />
        <TextField label="Diagonal (in)" inputMode="decimal" {...diagonal} />
      </Box>
      <TextField select label="Accepted pixel-fault class" helperText={vocabulary.data?.profile_source} {...profile}>
        {(vocabulary.data?.profiles ?? [{ id: job.profile, title: job.profile }]).map((one) => <MenuItem key={one.id} value={one.id}>{one.title}</MenuItem>)}
      </TextField>
      <IntakePhotos job={job} />
      <RecordList jobId={job.id} />
    </Box>
  );
}
