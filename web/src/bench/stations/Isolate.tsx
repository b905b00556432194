import { Alert, Box, Button, Typography } from "@mui/material";
import { useCallback, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { client, type Conditions, type Job } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { useJobChange } from "../api/job";
import { Causes } from "../isolate/Causes";
import { ConditionRow } from "../isolate/ConditionRow";
import { EdidCard } from "../isolate/EdidCard";
import { External } from "../isolate/External";
import { Ledger } from "../isolate/Ledger";
import { MeterWords } from "../isolate/MeterCard";
import { NextCard } from "../isolate/NextCard";
import { openChecks, stepOf } from "../isolate/steps";
import { ErrorNote, Waiting } from "../parts/notes";

export function Isolate({ job }: { job: Job }) {
  const go = useNavigate();
  const vocabulary = useVocabulary();
  const [picked, setPicked] = useState<string | null>(null);
  const [listed, setListed] = useState(false);
  const [conditions, setConditions] = useState<Conditions>({ mains: null, battery_percent: null, room: null });
  const answer = useJobChange<{ check: string; outcome: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/evidence", {
      params: { path: { job_id: job.id } },
      body: { ...body, source: "seen", conditions },
    }),
  );
  const withdraw = useJobChange<{ id: number; reason: string }>(job.id, ({ id, reason }) =>
    client.DELETE("/api/jobs/{job_id}/evidence/{evidence_id}", {
      params: { path: { job_id: job.id, evidence_id: id }, query: { reason } },
    }),
  );
  const step = useMemo(
    () => (vocabulary.data ? stepOf(job, vocabulary.data, picked) : null),
    [job, vocabulary.data, picked],
  );
  const { mutate, isPending } = answer;
  const check = step?.check;
  const onAnswer = useCallback(
    (outcome: string) => {
      // a second press before the next card has come would answer that card
      if (!check || isPending) return;
      mutate({ check, outcome });
      setPicked(null);
    },
    [check, mutate, isPending],
  );
  const skip = vocabulary.data?.not_possible ?? "";
  const onSkip = useCallback(() => {
    onAnswer(skip);
  }, [onAnswer, skip]);
  const onBack = useCallback(() => {
    setPicked(null);
  }, []);
  if (!vocabulary.data) return <Waiting words="Loading the checks" />;
  const standing = job.evidence.find((one) => !one.withdrawn && one.check === check)?.outcome;
  const open = openChecks(job, vocabulary.data);
  const later = (job.diagnosis.plan ?? []).slice(1);
  return (
    <Box>
      {(job.diagnosis.contradictions ?? []).map((line) => (
        <Alert key={line} severity="warning" variant="outlined" sx={{ mb: 1 }}>
          {line}
        </Alert>
      ))}
      {step ? (
        <NextCard
          job={job}
          step={step}
          picked={picked !== null}
          standing={standing}
          onAnswer={onAnswer}
          onSkip={onSkip}
          onBack={onBack}
          onPhotos={() => {
            void go(`/jobs/${job.id}/inspect`);
          }}
          onTouch={() => {
            void go(`/jobs/${job.id}/inspect?part=touch`);
          }}
        />
      ) : (
        <Alert severity="info" variant="outlined" sx={{ mb: 1.5 }}>
          Every check and repair was tried. Withdraw what may be wrong, or give the device to a specialist.
        </Alert>
      )}
      {picked === null && later.length > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
          Then, if it is as likely:{" "}
          {later.map((one) => `${one.title}${one.title.endsWith("?") ? "" : ","} ${one.minutes} min`).join("; ")}.
        </Typography>
      )}
      {job.diagnosis.stop.advised && !step?.repair && (
        <Alert severity="success" variant="outlined" icon={false} sx={{ mb: 1 }}>
          {job.diagnosis.stop.reason}
        </Alert>
      )}
      <ErrorNote error={answer.error ?? withdraw.error} />
      {!job.closed_at && <ConditionRow value={conditions} onChange={setConditions} />}
      {!job.closed_at && open.length > 0 && (
        <Box>
          <Button
            size="small"
            variant="outlined"
            aria-expanded={listed}
            onClick={() => {
              setListed(!listed);
            }}
          >
            {listed ? "Hide the open checks" : `Any of ${open.length} open checks`}
          </Button>
          {listed && (
            <Box component="ul" aria-label="Open checks" sx={{ listStyle: "none", m: 0, mt: 0.5, p: 0 }}>
              {open.map((one) => (
                <li key={one.id}>
                  <Button
                    size="small"
                    onClick={() => {
                      setPicked(one.id);
                      setListed(false);
                    }}
                    sx={{ textAlign: "left", justifyContent: "flex-start" }}
                  >
                    {one.title} ({one.minutes} min)
                  </Button>
                </li>
              ))}
            </Box>
          )}
        </Box>
      )}
      <Causes job={job} />
      <External job={job} />
      <EdidCard job={job} />
      <MeterWords job={job} />
      <Ledger
        job={job}
        vocabulary={vocabulary.data}
        onWithdraw={(id, reason) => {
          withdraw.mutate({ id, reason });
        }}
        onAgain={setPicked}
      />
    </Box>
  );
}
