// Grade: what a panel that was inspected by itself passes, what it was bought as, and what becomes of it.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import { client, got, type Job } from "../api/client";
import { useJobChange } from "../api/job";
import { useWhen } from "../api/hooks";
import type { components } from "../api/schema";
import { ReportLines, useMakeReport } from "../handover/ReportLines";
import { dayWords, today } from "../jobs/days";
import { ErrorNote, Waiting } from "../parts/notes";
import { WholeVerdict } from "../prove/WholeVerdict";

const MOST_FAILS = 3;
type Incoming = components["schemas"]["IncomingOut"];

/** Reads it anew with every change of the job: which classes it passes hangs on its photos. */
const useIncoming = (job: Job) =>
  useQuery({
    queryKey: ["job", job.id, "incoming", job.version],
    queryFn: () => got<Incoming>(client.GET("/api/jobs/{job_id}/incoming", { params: { path: { job_id: job.id } } })),
    placeholderData: keepPreviousData,
  });

function Bought({ told, serial }: { told: Incoming; serial: string }) {
  const facts = [
    told.supplier && `from ${told.supplier}${told.grade ? `, sold as ${told.grade}` : ""}`,
    told.order !== null && `order ${told.order}`,
    told.arrived_on && `arrived ${dayWords(told.arrived_on)}`,
    serial && `serial number ${serial}`,
    told.place === "rig" ? "loose on the test rig" : "in a device",
  ].filter(Boolean);
  const over = Boolean(told.claim_until) && String(told.claim_until) < today();
  return (
    <>
      <Typography sx={{ mb: 0.5 }}>
        <b>{told.panel}</b>, {facts.join(", ")}.
      </Typography>
      {told.claim_until && (
        <Typography sx={{ mb: 0.5 }} color={over ? "warning" : undefined}>
          {over
            ? "The supplier took a panel that came dead until "
            : "The supplier takes a panel that came dead until "}
          <b>{dayWords(told.claim_until)}</b>.
        </Typography>
      )}
      {!told.liners_whole && (
        <Typography color="warning" sx={{ mb: 0.5 }}>
          Something was peeled before it was measured: the right of return may have ended.
        </Typography>
      )}
    </>
  );
}

function Classes({ told }: { told: Incoming }) {
  const classes = told.classes ?? [];
  if (classes.length === 0) return null;
  return (
    <Box component="section" aria-label="Classes" sx={{ mb: 1.5 }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Which class it keeps
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {classes.map((one) => (
          <Box component="li" key={one.id} sx={{ display: "flex", gap: 1, py: 0.4 }}>
            <StateMark state={ofVerdict(one.result)} size={16} />
            <Typography variant="body2">
              <b>{one.title}</b>: {(VERDICT_WORDS[one.result] ?? "").toLowerCase()}
              {one.fails.length > 0 ? `. ${one.fails.slice(0, MOST_FAILS).join(" ")}` : ""}
            </Typography>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

export function Grade({ job }: { job: Job }) {
  const when = useWhen();
  const state = useIncoming(job);
  const claim = useMakeReport(job);
  const [decision, setDecision] = useState("");
  const [note, setNote] = useState("");
  const decide = useJobChange<{ decision: string; note: string }>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/incoming/decision", { params: { path: { job_id: job.id } }, body }),
  );
  if (state.isPending) return <Waiting words="Loading the panel" />;
  const told = state.data;
  if (!told) return <ErrorNote error={state.error} onRetry={() => void state.refetch()} />;
  const title = told.decisions.find((one) => one.id === told.decision)?.title;
  return (
    <>
      <Bought told={told} serial={job.serial_printed} />
      <WholeVerdict job={job} />
      {job.closed_at && title ? (
        <Typography sx={{ mb: 1.5 }}>
          <b>{title}.</b> {told.note} {told.by}
          {told.at ? `, ${when(told.at)}` : ""}
        </Typography>
      ) : (
        <Box component="section" aria-label="What becomes of it" sx={{ display: "grid", gap: 1.5, mb: 1.5 }}>
          <TextField
            select
            label="What becomes of it"
            value={decision}
            onChange={(event) => {
              setDecision(event.target.value);
            }}
          >
            {told.decisions.map((one) => (
              <MenuItem key={one.id} value={one.id}>
                {one.title}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            label="Why, or what to know of it"
            value={note}
            slotProps={{ htmlInput: { maxLength: 300 } }}
            onChange={(event) => {
              setNote(event.target.value);
            }}
          />
          <Button
            variant="contained"
            disabled={!decision || decide.isPending}
            onClick={() => {
              decide.mutate({ decision, note });
            }}
          >
            Decide
          </Button>
          {told.order !== null && (
            <Typography variant="body2" color="textSecondary">
              The supplier&apos;s record learns from it: good, marked, or dead.
            </Typography>
          )}
        </Box>
      )}
      <ErrorNote error={decide.error ?? claim.error} />
      <Classes told={told} />
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        <Button component="a" href={`/api/jobs/${job.id}/ticket.pdf`} target="_blank" rel="noopener">
          Label for the panel
        </Button>
        {told.supplier && (
          <Button
            disabled={claim.isPending}
            onClick={() => {
              claim.mutate({ kind: "claim", language: "" });
            }}
          >
            Claim packet
          </Button>
        )}
        <Button component="a" href={`/api/jobs/${job.id}/report.json`} download>
          Report (JSON)
        </Button>
        <Button component="a" href={`/api/jobs/${job.id}/findings.csv?stage=inspect`} download>
          Findings (CSV)
        </Button>
      </Box>
      <ReportLines job={job} kinds={["claim"]} />
    </>
  );
}
