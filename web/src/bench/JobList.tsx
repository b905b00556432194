import { Box, Button, Chip, Link as MuiLink, TextField, Typography } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../theme/StateMark";
import { STAGES, STATIONS } from "../pane/vocabulary.gen";
import type { JobLine, Stage } from "./api/client";
import { useCondition, useJobs } from "./api/hooks";
import { Empty, ErrorNote, Waiting } from "./parts/notes";
import { DueList } from "./touch/Retests";

/** The one verdict of the device as it goes, where anything was measured on it; before it the stages that led there. */
function verdictsOf(job: JobLine): [string, JobLine["verdict"]["result"]][] {
  const before = Object.entries(job.stages).filter(([stage]) => !["closed", "recheck"].includes(stage));
  return [
    ...before.map(([stage, result]) => [STAGES[stage as Stage].title, result] as [string, typeof result]),
    ...(job.verdict.parts.length ? [["Verdict", job.verdict.result] as [string, typeof job.verdict.result]] : []),
  ];
}

function Line({ job }: { job: JobLine }) {
  return (
    <MuiLink
      component={Link}
      to={`/jobs/${job.id}/${job.station}`}
      underline="none"
      color="textPrimary"
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: "64px minmax(220px, 1.2fr) minmax(180px, 1fr) 130px 250px" },
        gap: { xs: 0.5, md: 2 },
        alignItems: "center",
        px: 2,
        py: 1.25,
        minHeight: 60,
        borderTop: 1,
        borderColor: "divider",
        "&:hover": { bgcolor: "background.paper" },
      }}
    >
      <Typography color="textSecondary">{job.id}</Typography>
      <Box sx={{ minWidth: 0 }}>
        <Typography sx={{ fontWeight: 600, overflowWrap: "anywhere" }}>{job.title}</Typography>
        <Typography variant="body2" color="textSecondary">
          {job.owner || "No owner named"}, {job.panel_width}x{job.panel_height}
        </Typography>
      </Box>
      <Typography
        variant="body2"
        color="textSecondary"
        sx={{
          overflow: "hidden",
          textOverflow: "ellipsis",
          display: "-webkit-box",
          WebkitLineClamp: 2,
          WebkitBoxOrient: "vertical",
        }}
      >
        {job.complaint}
      </Typography>
      <Box>
        <Chip
          size="small"
          variant={job.closed_at ? "outlined" : "filled"}
          label={job.closed_at ? "Closed" : STATIONS[job.station].title}
        />
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}>
        {verdictsOf(job).map(([title, result]) => (
          <Box key={title} sx={{ display: "flex", gap: 0.5, alignItems: "center" }}>
            <StateMark state={ofVerdict(result)} size={16} />
            <Typography variant="body2">
              {title}: {VERDICT_WORDS[result] ?? result}
            </Typography>
          </Box>
        ))}
      </Box>
    </MuiLink>
  );
}

/** The nightly backup's last result, where the day begins; a failed one is a notice on every screen. */
function LastBackup() {
  const condition = useCondition();
  if (!condition.data) return null;
  const { backup_at: at, backup_text: text } = condition.data;
  return (
    <Typography variant="body2" color="textSecondary" sx={{ p: 2 }}>
      {at
        ? `Last nightly backup: ${new Date(at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}. ${text}`
        : "No nightly backup yet: the first one is made tonight, or soon after the next start."}
    </Typography>
  );
}

export function JobList() {
  const jobs = useJobs();
  const [text, setText] = useState("");
  if (jobs.isPending) return <Waiting words="Loading the jobs" />;
  if (!jobs.data)
    return (
      <Box sx={{ p: 2 }}>
        <ErrorNote error={jobs.error} onRetry={() => void jobs.refetch()} />
      </Box>
    );
  const wanted = text.trim().toLowerCase();
  const shown = jobs.data.filter((job) =>
    `${job.id} ${job.title} ${job.owner} ${job.complaint}`.toLowerCase().includes(wanted),
  );
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", p: 2 }}>
        <Typography variant="h1" sx={{ mr: "auto" }}>
          Jobs
        </Typography>
        <TextField
          label="Find"
          type="search"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
          }}
          sx={{ width: { xs: "100%", sm: 280 } }}
        />
        <Button component={Link} to="/jobs/new" variant="contained">
          Take in a device
        </Button>
      </Box>
      <DueList />
      {shown.map((job) => (
        <Line key={job.id} job={job} />
      ))}
      {shown.length === 0 && (
        <Box sx={{ px: 2 }}>
          <Empty>
            {jobs.data.length
              ? "No job has these words. Clear the field to see all."
              : "No job yet. Take in the first device."}
          </Empty>
        </Box>
      )}
      <LastBackup />
    </Box>
  );
}
