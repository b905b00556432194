// The device was here before: what it left with, what is new since, what warranty holds; and what was learnt at devices like it.

import { Box, Link as MuiLink, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, got, type Before as WasBefore, type Job } from "../api/client";
import { useWhen } from "../api/hooks";
import { LookedBackList } from "../parts/LookedBackList";
import { ErrorNote } from "../parts/notes";
import { Comeback } from "./Comeback";

export function useBefore(job: Job) {
  const received = job.runs.find((run) => run.stage === "inspect")?.status ?? "";
  return useQuery({
    // what it hangs on: serials, owner, and what was measured as received; a step at Fit asks for none of it again
    queryKey: ["job", job.id, "before", job.serial_printed, job.serial_system, job.owner, received],
    queryFn: () => got<WasBefore>(client.GET("/api/jobs/{job_id}/before", { params: { path: { job_id: job.id } } })),
    placeholderData: (previous) => previous,
    staleTime: 5_000,
  });
}

export function Lessons({ job }: { job: Job }) {
  const lessons = useBefore(job).data?.lessons ?? [];
  if (lessons.length === 0) return null;
  return (
    <Box component="section" aria-label="Learnt before" sx={{ mb: 1.5 }}>
      {lessons.map((one) => (
        <Typography key={one.job_id} variant="body2">
          <b>Learnt at job {one.job_id}:</b> {one.text}
        </Typography>
      ))}
    </Box>
  );
}

export function Before({ job }: { job: Job }) {
  const when = useWhen();
  const before = useBefore(job);
  const earlier = before.data?.earlier ?? [];
  return (
    <>
      {earlier.length > 0 && (
        <Box
          component="section"
          aria-label="It was here before"
          sx={{ border: 1, borderColor: "warning.main", borderRadius: 1, p: 1.5 }}
        >
          <Typography variant="h2">
            {earlier[0]?.how === "serial" ? "It was here before" : "It may have been here before"}
          </Typography>
          {earlier.map((one) => (
            <Box key={one.job_id} sx={{ mt: 0.75 }}>
              <Typography>
                <MuiLink component={Link} to={`/jobs/${one.job_id}/hand_over`}>
                  Job {one.job_id}, {one.title}
                </MuiLink>
                , handed over {when(one.closed_at)}
                {one.panel && `, ${one.panel} fitted`}.
              </Typography>
              <Typography variant="body2">
                {one.under_warranty.length > 0
                  ? `Covered: ${one.under_warranty.join(", ")}.`
                  : "No warranty holds any more."}{" "}
                {one.new.length > 0
                  ? `New since it was handed over: ${one.new.map((finding) => finding.kind.replaceAll("_", " ")).join(", ")} (${one.same} as then).`
                  : one.compared}
              </Typography>
              <LookedBackList places={one.looked_back} then={`job ${one.job_id}`} />
              {one.how === "serial" && <Comeback job={job} earlier={one} payers={before.data?.payers ?? {}} />}
            </Box>
          ))}
          {earlier.every((one) => one.seals.length === 0) && (
            <Typography variant="body2" color="textSecondary" sx={{ mt: 0.75 }}>
              No seal is on record. Look for traces of opening before it is opened.
            </Typography>
          )}
        </Box>
      )}
      <Lessons job={job} />
      <ErrorNote error={before.error} />
    </>
  );
}
