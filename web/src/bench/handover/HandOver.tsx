import {
  Alert,
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  TextField,
  Typography,
} from "@mui/material";
import { useState } from "react";
import { StateMark } from "../../theme/StateMark";
import { client, Problem, type Job, type JobChange } from "../api/client";
import { useMe, useVocabulary, useWhen } from "../api/hooks";
import { useJobChange } from "../api/job";
import { Confirm } from "../parts/Confirm";
import { ErrorNote } from "../parts/notes";
import { RecordList } from "../parts/RecordList";
import { AskRetest } from "../touch/Retests";
import { WholeVerdict } from "../prove/WholeVerdict";
import { useStoredField } from "../intake/useStoredField";
import { CauseChoice } from "./CauseChoice";
import { Reports } from "./Reports";
import { Seals } from "./Seals";

const SURE_ENOUGH = 0.5;

export function HandOver({ job }: { job: Job }) {
  const me = useMe();
  const when = useWhen();
  const [asking, setAsking] = useState(false);
  const [because, setBecause] = useState("");
  const [lesson, setLesson] = useState("");
  const save = useJobChange<JobChange>(job.id, (body) =>
    client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job.id } }, body }),
  );
  const note = useStoredField(job, "hand_over_note", (values, answer) => {
    save.mutate(values, {
      onSuccess: (stored) => {
        answer.stored((stored as Job).version);
      },
      onError: (error) => {
        answer.failed(error instanceof Problem && error.status === 409);
      },
    });
  });
  const close = useJobChange<string[]>(job.id, (true_causes) =>
    client.POST("/api/jobs/{job_id}/hand-over", {
      params: { path: { job_id: job.id } },
      body: { true_causes, because, lesson },
    }),
  );
  const unmeasured =
    !job.runs.some((run) => run.result) && !job.touches.some((one) => one.result && one.status !== "withdrawn");
  const asksWhy = unmeasured || job.hindrances.length > 0;
  const vocabulary = useVocabulary();
  const likeliest = job.diagnosis.causes[0];
  const [causes, setCauses] = useState<string[] | null>(null);
  const named = causes ?? (likeliest && likeliest.p > SURE_ENOUGH ? [likeliest.id] : []);
  const [reopening, setReopening] = useState(false);
  const reopen = useJobChange<string>(job.id, (reason) =>
    client.POST("/api/jobs/{job_id}/reopen", { params: { path: { job_id: job.id } }, body: { reason } }),
  );
  const open = job.stations.filter((one) => !["done", "skipped"].includes(one.state) && one.id !== "hand_over");
  return (
    <Box>
      <WholeVerdict job={job} />
      {open.length > 0 && !job.closed_at && (
        <Alert severity="warning" variant="outlined" sx={{ mb: 1.5 }}>
          Not everything is good or proven. The report says so:
          {open.map((one) => (
            <Box key={one.id} sx={{ display: "flex", gap: 1, mt: 0.5 }}>
              <StateMark state={one.state} />
              <span>
                {one.title}: {one.known}
              </span>
            </Box>
          ))}
        </Alert>
      )}
      <TextField
        label="Note to the owner"
        multiline
        minRows={2}
        {...note}
        slotProps={{ htmlInput: { maxLength: 2000 } }}
      />
      <ErrorNote error={save.error ?? close.error ?? reopen.error} />
      <Seals job={job} />
      <Reports job={job} />
      {job.closed_at ? (
        <Box>
          <Typography>
            Handed over {when(job.closed_at)}.
            {job.true_causes.length > 0 &&
              ` It was: ${job.true_causes.map((id) => vocabulary.data?.causes.find((one) => one.id === id)?.title ?? id).join(", ")}.`}
          </Typography>
          {me.data?.roles.includes("lead") && (
            <Button
              onClick={() => {
                setReopening(true);
              }}
            >
              Reopen the job
            </Button>
          )}
        </Box>
      ) : (
        <Button
          variant="contained"
          size="large"
          onClick={() => {
            setAsking(true);
          }}
        >
          Hand over
        </Button>
      )}
      {reopening && (
        <Confirm
          title="Reopen this job?"
          text="Its record goes on from here; the report that was handed over stays as it was."
          action="Reopen"
          reason="Why"
          onConfirm={(reason) => {
            reopen.mutate(reason);
          }}
          onClose={() => {
            setReopening(false);
          }}
        />
      )}
      <AskRetest job={job} />
      <RecordList jobId={job.id} />
      <Dialog
        open={asking}
        onClose={() => {
          setAsking(false);
        }}
        aria-labelledby="hand-over-title"
      >
        <DialogTitle id="hand-over-title">Hand over and close this job?</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <Typography>
            The record is closed with it. Tell the owner what is not proven, and the cautions of the report.
          </Typography>
          <CauseChoice causes={job.diagnosis.causes} chosen={named} onChange={setCauses} />
          <TextField
            label="What to know next time"
            value={lesson}
            helperText="Shown when such a device or panel comes again. Leave it empty where nothing was learnt."
            slotProps={{ htmlInput: { maxLength: 300 } }}
            onChange={(event) => {
              setLesson(event.target.value);
            }}
          />
          {job.hindrances.map((words) => (
            <Typography key={words} color="warning">
              {words}
            </Typography>
          ))}
          {asksWhy && (
            <TextField
              label={unmeasured ? "Why unmeasured" : "Why it is handed over all the same"}
              required
              value={because}
              onChange={(event) => {
                setBecause(event.target.value);
              }}
              slotProps={{ htmlInput: { maxLength: 300 } }}
              helperText={`${unmeasured ? "Nothing was measured on this job. " : ""}The reason stands in the record and in the report.`}
            />
          )}
        </DialogContent>
        <DialogActions>
          <Button
            onClick={() => {
              setAsking(false);
            }}
          >
            Not yet
          </Button>
          <Button
            variant="contained"
            disabled={close.isPending || (asksWhy && !because.trim())}
            onClick={() => {
              close.mutate(named, {
                onSettled: () => {
                  setAsking(false);
                },
              });
            }}
          >
            Hand over
          </Button>
        </DialogActions>
      </Dialog>
    </Box>
  );
}
