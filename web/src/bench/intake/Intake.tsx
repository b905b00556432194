import { Box, Button, Typography } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { client, Problem, type Job, type JobChange } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { DeviceOfJob } from "./DevicePick";
import { DeviceFields, type FieldName, type FieldProps } from "./DeviceFields";
import { IntakePhotos } from "./IntakePhotos";
import { Reported } from "./Reported";
import { RecordList } from "../parts/RecordList";

type Field = Exclude<keyof JobChange, "version">;
interface Draft {
  value: string;
  version: number;
  clash: boolean;
}
interface Answer {
  stored: (version: number) => void;
  failed: (clash: boolean) => void;
}
type Save = (change: JobChange, answer: Answer) => void;
const SAVE_AFTER_MS = 700;
const NUMBERS: Field[] = ["panel_width", "panel_height", "diagonal_in"];

/** A field that stores itself. What is being typed is never overwritten by what comes from the server, and never overwrites
 * unseen what somebody else stored meanwhile: a draft keeps the version that it was begun on. */
function useField(job: Job, field: Field, save: Save) {
  const kept = job[field];
  const stored = kept === null || kept === undefined ? "" : String(kept);
  const [draft, show] = useState<Draft | null>(null);
  const now = useRef<Draft | null>(null);
  const timer = useRef(0);
  const underway = useRef(false);
  useEffect(
    () => () => {
      clearTimeout(timer.current);
    },
    [],
  );
  const setDraft = (next: Draft | null) => {
    now.current = next;
    show(next);
  };
  const send = () => {
    clearTimeout(timer.current);
    const sent = now.current;
    if (!sent || sent.clash || underway.current) return;
    const { value, version } = sent;
    if (NUMBERS.includes(field) && value.trim() === "" && field !== "diagonal_in") return;
    const change = NUMBERS.includes(field) ? (value.trim() === "" ? null : Number(value.replace(",", "."))) : value;
    underway.current = true;
    save(
      { [field]: change, version },
      {
        stored: (newest) => {
          underway.current = false;
          if (now.current?.value === value) {
            setDraft(null);
            return;
          }
          if (now.current) setDraft({ ...now.current, version: newest });
          send();
        },
        failed: (clash) => {
          underway.current = false;
          if (clash && now.current) setDraft({ ...now.current, clash });
        },
      },
    );
  };
  return {
    value: draft?.value ?? stored,
    disabled: Boolean(job.closed_at),
    ...(draft?.clash && {
      error: true,
      helperText: `Somebody else stored "${stored}" meanwhile. Enter yours again to replace it, or press Escape to take theirs.`,
    }),
    onChange: (event: { target: { value: string } }) => {
      // after a clash the value stored now has been seen, so typing on replaces it
      const base = now.current && !now.current.clash ? now.current.version : job.version;
      setDraft({ value: event.target.value, version: base, clash: false });
      clearTimeout(timer.current);
      timer.current = window.setTimeout(send, SAVE_AFTER_MS);
    },
    onBlur: send,
    onKeyDown: (event: { key: string }) => {
      if (event.key === "Escape" && now.current?.clash) setDraft(null);
    },
  };
}

export function Intake({ job }: { job: Job }) {
  const vocabulary = useVocabulary();
  const change = useJobChange<JobChange>(job.id, (body) =>
    client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job.id } }, body }),
  );
  const [last, setLast] = useState<{ field: Field; before: JobChange[Field] } | null>(null);
  const undoing = useRef(false);
  const undo = () => {
    if (!last) return;
    undoing.current = true;
    change.mutate({ [last.field]: last.before ?? (last.field === "diagonal_in" ? null : ""), version: job.version });
    setLast(null);
  };
  const save: Save = (values, answer) => {
    change.mutate(values, {
      onSuccess: (stored) => {
        answer.stored((stored as Job).version);
        const field = Object.keys(values).find((name): name is Field => name !== "version");
        if (field && !undoing.current) setLast({ field, before: job[field] ?? null });
        undoing.current = false;
      },
      onError: (error) => {
        answer.failed(error instanceof Problem && error.status === 409);
      },
    });
  };
  const fields: Record<FieldName, FieldProps> = {
    title: useField(job, "title", save),
    owner: useField(job, "owner", save),
    complaint: useField(job, "complaint", save),
    visible_damage: useField(job, "visible_damage", save),
    accessories: useField(job, "accessories", save),
    serial_printed: useField(job, "serial_printed", save),
    serial_system: useField(job, "serial_system", save),
    device_type: useField(job, "device_type", save),
    panel_width: useField(job, "panel_width", save),
    panel_height: useField(job, "panel_height", save),
    diagonal_in: useField(job, "diagonal_in", save),
    profile: useField(job, "profile", save),
  };
  const report = useJobChange<{ check: string; outcome: string | null }>(job.id, ({ check, outcome }) => {
    const standing = job.evidence.find((one) => !one.withdrawn && one.check === check);
    const path = { job_id: job.id };
    return outcome === null && standing
      ? client.DELETE("/api/jobs/{job_id}/evidence/{evidence_id}", {
          params: { path: { ...path, evidence_id: standing.id }, query: { reason: "unticked at intake" } },
        })
      : client.POST("/api/jobs/{job_id}/evidence", {
          params: { path },
          body: { check, outcome: outcome ?? "", source: "told" },
        });
  });
  const reports = Object.fromEntries(job.evidence.flatMap((one) => (one.withdrawn ? [] : [[one.check, one.outcome]])));
  return (
    <Box sx={{ display: "grid", gap: 1.75 }}>
      <Typography role="status" variant="body2" color="textSecondary">
        {change.isPending
          ? "Saving"
          : change.isError
            ? "Not saved; what you typed is still here."
            : "Everything is saved as you type."}
        {last && !change.isPending && (
          <Button size="small" onClick={undo} sx={{ ml: 1 }}>
            Undo the last change
          </Button>
        )}
      </Typography>
      <ErrorNote
        error={change.error}
        onClose={() => {
          change.reset();
        }}
      />
      <DeviceFields
        of={(name) => fields[name]}
        register={<DeviceOfJob job={job} />}
        reported={
          vocabulary.data && (
            <Reported
              vocabulary={vocabulary.data}
              device={job.device_type}
              reports={reports}
              disabled={Boolean(job.closed_at)}
              onReport={(check, outcome) => {
                report.mutate({ check, outcome });
              }}
            />
          )
        }
      />
      <ErrorNote error={report.error} />
      <IntakePhotos job={job} />
      <RecordList jobId={job.id} />
    </Box>
  );
}
