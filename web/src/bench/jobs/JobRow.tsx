// One job in a list: what it is, how far it is and what it asks for, its verdict, whose it is and when it is due.

import { Box, Link as MuiLink, Typography } from "@mui/material";
import { Link } from "react-router";
import { STATIONS, WAITING } from "../../pane/vocabulary.gen";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import type { JobLine } from "../api/client";
import { capital } from "../words";
import { ago, due } from "./days";
import { verdictOf } from "./verdictOf";

const COLUMNS = "56px minmax(200px, 1.3fr) minmax(200px, 1.2fr) minmax(150px, 0.8fr) minmax(130px, 0.6fr)";

export function JobHeadings() {
  return (
    <Box aria-hidden sx={{ display: { xs: "none", md: "grid" }, gridTemplateColumns: COLUMNS, gap: 2, px: 2, py: 0.5 }}>
      {["No.", "Device, owner", "Station, what is next", "Verdict", "Who, when"].map((title) => (
        <Typography key={title} variant="body2" color="textSecondary">
          {title}
        </Typography>
      ))}
    </Box>
  );
}

export function JobRow({ job }: { job: JobLine }) {
  const verdict = verdictOf(job);
  return (
    <MuiLink
      component={Link}
      to={`/jobs/${job.id}/${job.station}`}
      underline="none"
      color="textPrimary"
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: COLUMNS },
        gap: { xs: 0.5, md: 2 },
        alignItems: "start",
        px: 2,
        py: 1,
        minHeight: 60,
        borderTop: 1,
        borderColor: "divider",
        "&:hover": { bgcolor: "background.paper" },
      }}
    >
      <Typography color="textSecondary" sx={{ display: { xs: "none", md: "block" } }}>
        {job.id}
      </Typography>
      <Box sx={{ minWidth: 0 }}>
        <Typography sx={{ fontWeight: 600, overflowWrap: "anywhere" }}>
          <Box component="span" sx={{ display: { md: "none" }, color: "text.secondary", fontWeight: 400 }}>
            {job.id}{" "}
          </Box>
          {job.title}
        </Typography>
        <Typography variant="body2" color="textSecondary" sx={{ overflowWrap: "anywhere" }}>
          {job.owner || "No owner named"}; taken in {ago(job.created_at)}
        </Typography>
      </Box>
      <Box sx={{ minWidth: 0 }}>
        <Box sx={{ display: "flex", gap: 0.75, alignItems: "center" }}>
          <StateMark state={job.state} size={16} />
          <Typography>{job.closed_at ? "Closed" : STATIONS[job.station].title}</Typography>
        </Box>
        {!job.closed_at && job.next && (
          <Typography
            variant="body2"
            color="textSecondary"
            sx={{ display: "-webkit-box", WebkitLineClamp: 2, WebkitBoxOrient: "vertical", overflow: "hidden" }}
          >
            {job.next}
          </Typography>
        )}
      </Box>
      <Box>
        {verdict && (
          <Box sx={{ display: "flex", gap: 0.75, alignItems: "center" }}>
            <StateMark state={ofVerdict(verdict.result)} size={16} />
            <Typography variant="body2">
              {verdict.title}: {VERDICT_WORDS[verdict.result] ?? verdict.result}
            </Typography>
          </Box>
        )}
      </Box>
      <Box>
        {!job.closed_at && (
          <>
            <Typography variant="body2" sx={{ fontWeight: job.urgent || job.overdue ? 600 : 400 }}>
              {capital([job.urgent && "urgent", job.due_on && due(job.due_on)].filter(Boolean).join(", ") || "no date")}
            </Typography>
            <Typography variant="body2" color="textSecondary">
              {job.assigned_to ? `With ${job.assigned_to}` : "Nobody's yet"}
            </Typography>
            {job.waiting_for && (
              <Typography variant="body2" color="warning">
                Waits for: {WAITING[job.waiting_for].title.toLowerCase()}
              </Typography>
            )}
          </>
        )}
      </Box>
    </MuiLink>
  );
}
