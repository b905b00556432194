import { Box, Button, Typography } from "@mui/material";
import { useRef, useState } from "react";
import { client, Problem, type Job, type JobChange } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";
import { Before } from "./Before";
import { DeviceOfJob } from "./DevicePick";
import { DeviceFields, type FieldName, type FieldProps } from "./DeviceFields";
import { IntakePhotos } from "./IntakePhotos";
import { Reported } from "./Reported";
import { useStoredField, type Field, type Save } from "./useStoredField";
import { RecordList } from "../parts/RecordList";

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
    title: useStoredField(job, "title", save),
    owner: useStoredField(job, "owner", save),
    complaint: useStoredField(job, "complaint", save),
    visible_damage: useStoredField(job, "visible_damage", save),
    accessories: useStoredField(job, "accessories", save),
    start_consent: useStoredField(job, "start_consent", save),
    serial_printed: useStoredField(job, "serial_printed", save),
    serial_system: useStoredField(job, "serial_system", save),
    device_type: useStoredField(job, "device_type", save),
    panel_width: useStoredField(job, "panel_width", save),
    panel_height: useStoredField(job, "panel_height", save),
    diagonal_in: useStoredField(job, "diagonal_in", save),
    profile: useStoredField(job, "profile", save),
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
      <Before job={job} />
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
      <Button
        component="a"
        href={`/api/jobs/${job.id}/ticket.pdf`}
        target="_blank"
        rel="noopener"
        sx={{ justifySelf: "start" }}
      >
        Label for the bag
      </Button>
      <RecordList jobId={job.id} />
    </Box>
  );
}
