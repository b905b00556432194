// Where a day begins: what is overdue, urgent, mine, waiting or nobody's, and what is to be looked at again.

import { Box, Button, Link as MuiLink, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, got, type TodayOut } from "../api/client";
import { useMe } from "../api/hooks";
import { BeginFirst } from "../first/BeginFirst";
import { Empty } from "../parts/notes";
import { DueList } from "../touch/Retests";
import { Day } from "./Day";
import { LastBackup, useJobPages } from "./JobList";
import { JobRow } from "./JobRow";
import type { Query } from "./wanted";

const SHOWN = 5;

/** A few of the jobs of a kind, and the way to all of them. */
function Some({ title, count, query, empty }: { title: string; count: number; query: Query; empty?: string }) {
  const pages = useJobPages(query, SHOWN);
  const jobs = pages.data?.pages[0]?.jobs ?? [];
  if (count === 0 && !empty) return null;
  const search = new URLSearchParams(query as Record<string, string>).toString();
  return (
    <Box component="section" aria-label={title} sx={{ mb: 3 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1.5, px: 2, pb: 0.5 }}>
        <Typography variant="h2">
          {title} ({count})
        </Typography>
        {count > SHOWN && (
          <MuiLink
            component={Link}
            to={`/jobs?${search}`}
            sx={{ minHeight: 44, display: "flex", alignItems: "center" }}
          >
            Show all
          </MuiLink>
        )}
      </Box>
      {jobs.map((job) => (
        <JobRow key={job.id} job={job} />
      ))}
      {count === 0 && empty && (
        <Box sx={{ px: 2 }}>
          <Empty>{empty}</Empty>
        </Box>
      )}
    </Box>
  );
}

export function Today() {
  const me = useMe();
  const day = useQuery({
    queryKey: ["jobs", "today"],
    queryFn: () => got<TodayOut>(client.GET("/api/today")),
    refetchInterval: 10_000,
  });
  const name = me.data?.name ?? "";
  const counts = day.data;
  if (!counts) return null;
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Today
        </Typography>
        <Button component={Link} to="/jobs" variant="outlined">
          All jobs
        </Button>
        <Button component={Link} to="/jobs/new" variant="contained">
          Take in a device
        </Button>
      </Box>
      <BeginFirst />
      <DueList />
      {counts.open > 0 && <Day />}
      {counts.open === 0 && (
        <Box sx={{ px: 2, mb: 2 }}>
          <Empty>No open job. Take in the first device; it is followed from here to the hand-over.</Empty>
        </Box>
      )}
      <Some title="Overdue" count={counts.overdue} query={{ overdue: true, sort: "due" }} />
      <Some
        title="Mine"
        count={counts.mine}
        query={{ who: name }}
        empty={
          counts.open > 0
            ? "No job is yours. Open one and take it under 'Who and when', or take in a device."
            : undefined
        }
      />
      <Some title="Waiting" count={counts.waiting} query={{ waiting_for: "any", sort: "old" }} />
      <Some title="Nobody's yet" count={counts.nobodys} query={{ who: "nobody" }} />
      <LastBackup />
    </Box>
  );
}
