// Reports of a job as a worker makes them: waiting, made with its file, or failed with the reason.

import { Box, Button, LinearProgress, Typography } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, got, type Job, type MadeReport } from "../api/client";
import { useSingle, useWhen } from "../api/hooks";
import { ErrorNote } from "../parts/notes";

const ASK_EVERY_MS = 700;
const MOST_LINES = 6;
type Kind = "pdf" | "zip" | "claim";
const KINDS: Record<string, string> = { pdf: "PDF", zip: "ZIP with photos", claim: "Claim packet" };

const sizeWords = (bytes: number): string =>
  bytes >= 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1e3))} kB`;

/** Ask for a report in the background. */
export function useMakeReport(job: Job) {
  const queries = useQueryClient();
  return useSingle(
    useMutation<MadeReport, Error, { kind: Kind; language: string }>({
      mutationFn: (body) =>
        got<MadeReport>(client.POST("/api/jobs/{job_id}/reports", { params: { path: { job_id: job.id } }, body })),
      onSuccess: () => queries.invalidateQueries({ queryKey: ["reports", job.id] }),
    }),
  );
}

export function ReportLines({ job, kinds }: { job: Job; kinds: readonly Kind[] }) {
  const when = useWhen();
  const made = useQuery({
    queryKey: ["reports", job.id],
    queryFn: () =>
      got<MadeReport[]>(client.GET("/api/jobs/{job_id}/reports", { params: { path: { job_id: job.id } } })),
    refetchInterval: (query) => (query.state.data?.some((one) => one.state === "waiting") ? ASK_EVERY_MS : false),
  });
  const mine = (made.data ?? []).filter((one) => (kinds as readonly string[]).includes(one.kind));
  return (
    <>
      {[...mine]
        .reverse()
        .slice(0, MOST_LINES)
        .map((one) => (
          <Box
            key={one.id}
            role="status"
            sx={{
              display: "flex",
              flexWrap: "wrap",
              gap: 1,
              alignItems: "center",
              py: 0.5,
              borderTop: 1,
              borderColor: "divider",
            }}
          >
            <Typography variant="body2" sx={{ flex: "1 1 200px" }}>
              {KINDS[one.kind] ?? one.kind}
              {one.kind === "claim" ? "" : ` (${one.language})`}, {when(one.made_at)}
              {one.handed_over ? ", as handed over" : ""}
              {one.state === "made" ? `, ${sizeWords(one.size_bytes)}` : ""}
            </Typography>
            {one.state === "made" && (
              <Button size="small" component="a" href={`/api/reports/${one.id}/file`} download>
                Save
              </Button>
            )}
            {one.state === "waiting" && (
              <LinearProgress
                aria-label="The report is being made"
                variant={one.of ? "determinate" : "indeterminate"}
                value={one.of ? (100 * one.rows) / one.of : undefined}
                sx={{ width: 140 }}
              />
            )}
            {one.state === "failed" && (
              <Typography variant="body2" color="error" sx={{ flexBasis: "100%" }}>
                {one.problem}
              </Typography>
            )}
          </Box>
        ))}
      <ErrorNote error={made.error} />
    </>
  );
}
