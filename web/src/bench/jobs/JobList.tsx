// All jobs: found by words, narrowed, sorted, a page at a time.

import { Box, Button, Typography } from "@mui/material";
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { Link, useSearchParams } from "react-router";
import { client, got, type JobPage } from "../api/client";
import { useCondition, useWhen } from "../api/hooks";
import { Empty, ErrorNote, Waiting } from "../parts/notes";
import { FindField, JobFilters } from "./JobFilters";
import { JobHeadings, JobRow } from "./JobRow";
import { narrowed, wantedOf, type Query } from "./wanted";

const FOLLOW_MS = 10_000;

export const useJobPages = (query: Query, limit = 50) =>
  useInfiniteQuery({
    queryKey: ["jobs", query, limit],
    queryFn: ({ pageParam }) =>
      got<JobPage>(client.GET("/api/jobs", { params: { query: { ...query, limit, after: pageParam } } })),
    initialPageParam: "",
    getNextPageParam: (page) => page.after ?? undefined,
    placeholderData: keepPreviousData,
    refetchInterval: FOLLOW_MS,
  });

/** The nightly backup's last result, where the day begins; a failed one is a notice on every screen. */
export function LastBackup() {
  const condition = useCondition();
  const when = useWhen();
  if (!condition.data) return null;
  const { backup_at: at, backup_text: text } = condition.data;
  return (
    <Typography variant="body2" color="textSecondary" sx={{ p: 2 }}>
      {at
        ? `Last nightly backup: ${when(at)}. ${text}`
        : "No nightly backup yet: the first one is made tonight, or soon after the next start."}
    </Typography>
  );
}

export function JobList() {
  const [params, setParams] = useSearchParams();
  const onParams = useCallback(
    (next: URLSearchParams) => {
      setParams(next, { replace: true });
    },
    [setParams],
  );
  const pages = useJobPages(wantedOf(params));
  const jobs = pages.data?.pages.flatMap((page) => page.jobs) ?? [];
  const total = pages.data?.pages.at(-1)?.total ?? 0;
  const asked = narrowed(params) > 0 || params.has("q");
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Jobs
        </Typography>
        <FindField params={params} onParams={onParams} />
        <Button component={Link} to="/jobs/new" variant="contained">
          Take in a device
        </Button>
      </Box>
      <JobFilters params={params} onParams={onParams} />
      {pages.isPending && <Waiting words="Loading the jobs" />}
      {pages.isError && !pages.data && (
        <Box sx={{ p: 2 }}>
          <ErrorNote error={pages.error} onRetry={() => void pages.refetch()} />
        </Box>
      )}
      {pages.data && (
        <>
          <Typography role="status" variant="body2" color="textSecondary" sx={{ px: 2, pb: 0.5 }}>
            {total} {total === 1 ? "job" : "jobs"}
            {jobs.length < total ? `, the first ${jobs.length} shown` : ""}
          </Typography>
          <JobHeadings />
          {jobs.map((job) => (
            <JobRow key={job.id} job={job} />
          ))}
          {jobs.length === 0 && (
            <Box sx={{ px: 2 }}>
              <Empty>
                {asked
                  ? "No job is like this. Take a filter or a word away, or look among the closed ones."
                  : "No open job. Take in the first device."}
              </Empty>
            </Box>
          )}
          {pages.hasNextPage && (
            <Box sx={{ p: 2, borderTop: 1, borderColor: "divider" }}>
              <Button
                variant="outlined"
                disabled={pages.isFetchingNextPage}
                onClick={() => {
                  void pages.fetchNextPage();
                }}
              >
                Show more
              </Button>
            </Box>
          )}
        </>
      )}
      <LastBackup />
    </Box>
  );
}
