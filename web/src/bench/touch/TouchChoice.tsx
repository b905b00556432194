// A new panel that fails its dry fit: rework, return or buy another, and what was decided.

import { Box, Button, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { client, got, type ChoiceOut, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { ReportLines, useMakeReport } from "../handover/ReportLines";
import { ErrorNote } from "../parts/notes";
import { currentTouch } from "./current";

const WAYS: Record<string, string> = { rework: "rework", return: "return", rebuy: "buy another" };

export function TouchChoice({ job }: { job: Job }) {
  const picture = job.runs.find((run) => run.stage === "dry_fit")?.result?.verdict.result;
  const failed = currentTouch(job, "dry_fit")?.result?.verdict === "fail" || picture === "fail";
  const claim = useMakeReport(job);
  const told = useQuery({
    queryKey: ["job", job.id, "touch-choice", job.version],
    enabled: failed,
    placeholderData: (before) => before,
    queryFn: () =>
      got<ChoiceOut>(client.GET("/api/jobs/{job_id}/touch-choice", { params: { path: { job_id: job.id } } })),
  });
  const decide = useJobChange<"rework" | "return" | "rebuy">(job.id, (way) =>
    client.POST("/api/jobs/{job_id}/touch-choice", { params: { path: { job_id: job.id } }, body: { way, reason: "" } }),
  );
  const choice = told.data?.choice;
  if (!failed) return null;
  if (!choice)
    return (
      <Typography sx={{ my: 1 }}>
        {told.data ? "The new panel fails. Choose its offer at Match, and the ways out are weighed here." : ""}
      </Typography>
    );
  const last = told.data?.decided.at(-1);
  return (
    <Box
      component="section"
      aria-label="Ways out"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, my: 1.5 }}
    >
      <Typography variant="h2">The {told.data?.fails || "touch"} of the new panel fails</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
        {choice.text}
      </Typography>
      {choice.options.map((one, n) => (
        <Box
          key={one.way}
          sx={{
            display: "grid",
            gridTemplateColumns: "1fr auto",
            gap: 1,
            alignItems: "center",
            py: 1,
            borderTop: 1,
            borderColor: "divider",
          }}
        >
          <Box>
            <Typography sx={{ fontWeight: n === 0 ? 600 : 400 }}>{one.title}</Typography>
            <Typography variant="body2">
              About {Math.round(one.cost)} in money and time, {one.days.toFixed(1)} days on average; answers afterwards
              in {Math.round(100 * one.mended)} of 100.
            </Typography>
            <Typography variant="body2" color="textSecondary">
              {one.text}
            </Typography>
          </Box>
          {!job.closed_at && (
            <Button
              variant={n === 0 ? "contained" : "outlined"}
              disabled={last === one.way}
              onClick={() => {
                decide.mutate(one.way);
              }}
              aria-label={`Decide: ${one.title}`}
            >
              {last === one.way ? "Decided" : "Do this"}
            </Button>
          )}
        </Box>
      ))}
      {last && (
        <Typography variant="body2" role="status">
          Decided last: {WAYS[last] ?? last}. It is in the record.
        </Typography>
      )}
      <Box sx={{ mt: 1 }}>
        <Button
          size="small"
          onClick={() => {
            claim.mutate({ kind: "claim", language: "" });
          }}
        >
          Claim packet for the supplier (ZIP)
        </Button>
        <ReportLines job={job} kinds={["claim"]} />
      </Box>
      <ErrorNote error={decide.error ?? claim.error} />
    </Box>
  );
}
