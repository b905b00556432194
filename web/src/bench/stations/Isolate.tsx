import { Alert, Box, Button, LinearProgress, Typography } from "@mui/material";
import { client, type Job } from "../api/client";
import { useJobChange, useVocabulary } from "../api/hooks";
import { ErrorNote, Waiting } from "../parts/notes";

export function Isolate({ job }: { job: Job }) {
  const vocabulary = useVocabulary();
  const answer = useJobChange<{ check: string; outcome: string }>(job.id, (body) => client.POST("/api/jobs/{job_id}/evidence", { params: { path: { job_id: job.id } }, body: { ...body, source: "seen" } }));
  const withdraw = useJobChange<number>(job.id, (id) => client.DELETE("/api/jobs/{job_id}/evidence/{evidence_id}", { params: { path: { job_id: job.id, evidence_id: id }, query: { reason: "taken back at the bench" } } }));
  if (!vocabulary.data) return <Waiting words="Loading the checks" />;
  const standing = new Map(job.evidence.filter((item) => !item.withdrawn).map((item) => [item.check, item]));
  const { causes, next, stop } = job.diagnosis;
  const best = next[0];
  return (
    <Box>
      <Alert severity={stop.advised ? "success" : "info"} variant="outlined" icon={false} sx={{ mb: 1.5 }}>
        <Typography sx={{ fontWeight: 600 }}>{stop.advised ? stop.reason : best ? `Next: ${best.title}` : ""}</Typography>
        {!stop.advised && best && <Typography variant="body2">{best.reason}</Typography>}
      </Alert>
      {vocabulary.data.checks.filter((check) => check.id !== "photos").map((check) => {
        const now = standing.get(check.id);
        return (
          <Box key={check.id} role="group" aria-label={check.title} sx={{ mb: 1.5 }}>
            <Typography variant="h3">{check.title}</Typography>
            <Typography variant="body2" color="textSecondary">{check.how}</Typography>
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.75, mt: 0.5 }}>
              {check.outcomes.map((outcome) => (
                <Button key={outcome.id} disabled={Boolean(job.closed_at)} variant={now?.outcome === outcome.id ? "contained" : "outlined"} aria-pressed={now?.outcome === outcome.id}
                  onClick={() => { if (now?.outcome === outcome.id) withdraw.mutate(now.id); else answer.mutate({ check: check.id, outcome: outcome.id }); }}>{outcome.title}</Button>
              ))}
            </Box>
          </Box>
        );
      })}
      <ErrorNote error={answer.error ?? withdraw.error} />
      <Typography variant="h2" sx={{ mt: 2 }}>Likely causes</Typography>
      <Typography variant="body2" color="textSecondary">From the answers above and from what the photos measured.</Typography>
      {causes.map((cause) => (
        <Box key={cause.id} sx={{ py: 0.75, borderTop: 1, borderColor: "divider" }}>
          <Box sx={{ display: "flex", justifyContent: "space-between", gap: 1 }}>
            <Typography sx={{ fontWeight: 600 }}>{cause.title}</Typography><Typography>{Math.round(cause.p * 100)} %</Typography>
          </Box>
          <LinearProgress variant="determinate" value={cause.p * 100} aria-label={`Probability of ${cause.title}`} sx={{ my: 0.5 }} />
          {cause.for_.map((words) => <Typography key={words} variant="body2" color="textSecondary">For: {words}</Typography>)}
          {cause.against.map((words) => <Typography key={words} variant="body2" color="textSecondary">Against: {words}</Typography>)}
        </Box>
      ))}
    </Box>
  );
}
