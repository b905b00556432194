// Who has a job, when it is due, what it waits for: one line under its title, changed in a small dialog.

import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { WAITING } from "../../pane/vocabulary.gen";
import { client, got, type Job, type JobChange } from "../api/client";
import { useMe } from "../api/hooks";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { due } from "./days";

type Plan = Pick<JobChange, "assigned_to" | "due_on" | "urgent" | "waiting_for">;

function PlanDialog({ job, onClose }: { job: Job; onClose: () => void }) {
  const me = useMe();
  const colleagues = useQuery({
    queryKey: ["colleagues"],
    queryFn: () => got<string[]>(client.GET("/api/colleagues")),
  });
  const [who, setWho] = useState(job.assigned_to);
  const [day, setDay] = useState(job.due_on ?? "");
  const [urgent, setUrgent] = useState(job.urgent);
  const [waits, setWaits] = useState<string>(job.waiting_for ?? "");
  const change = useJobChange<Plan>(job.id, (plan, version) =>
    client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job.id } }, body: { ...plan, version } }),
  );
  const names = [...new Set([...(colleagues.data ?? []), ...(job.assigned_to ? [job.assigned_to] : [])])];
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          const plan = { assigned_to: who, due_on: day || null, urgent, waiting_for: waits as Plan["waiting_for"] };
          change.mutate(plan, { onSuccess: onClose });
        }}
      >
        <DialogTitle>Who and when</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <TextField
            select
            label="Given to"
            value={who}
            sx={{ mt: 1 }}
            onChange={(event) => {
              setWho(event.target.value);
            }}
          >
            <MenuItem value="">Nobody yet</MenuItem>
            {names.map((name) => (
              <MenuItem key={name} value={name}>
                {name}
                {name === me.data?.name ? " (me)" : ""}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            type="date"
            label="Due on"
            value={day}
            slotProps={{ inputLabel: { shrink: true } }}
            onChange={(event) => {
              setDay(event.target.value);
            }}
          />
          <TextField
            select
            label="Waits for"
            value={waits}
            onChange={(event) => {
              setWaits(event.target.value);
            }}
          >
            <MenuItem value="">Nothing: it can go on</MenuItem>
            {Object.entries(WAITING).map(([id, one]) => (
              <MenuItem key={id} value={id}>
                {one.title}
              </MenuItem>
            ))}
          </TextField>
          <FormControlLabel
            label="Urgent"
            control={
              <Checkbox
                checked={urgent}
                onChange={(event) => {
                  setUrgent(event.target.checked);
                }}
              />
            }
          />
          <ErrorNote error={change.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={change.isPending}>
            Save
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

export function PlanLine({ job }: { job: Job }) {
  const [open, setOpen] = useState(false);
  const words = [
    job.urgent && "urgent",
    job.assigned_to ? `with ${job.assigned_to}` : "nobody's yet",
    job.due_on && due(job.due_on),
    job.waiting_for && `waits for: ${WAITING[job.waiting_for].title.toLowerCase()}`,
  ].filter(Boolean);
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 1, mb: 1 }}>
      <Typography variant="body2">{words.join(", ").replace(/^./, (letter) => letter.toUpperCase())}</Typography>
      {!job.closed_at && (
        <Button
          size="small"
          onClick={() => {
            setOpen(true);
          }}
        >
          Who and when
        </Button>
      )}
      {open && (
        <PlanDialog
          job={job}
          onClose={() => {
            setOpen(false);
          }}
        />
      )}
    </Box>
  );
}
