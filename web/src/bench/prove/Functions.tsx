// The functions that ride on what was touched: how each is tested in a line, and how it was found.

import { Box, Button, MenuItem, TextField, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { StateMark, type State } from "../../theme/StateMark";
import { client, type Job, type Proving } from "../api/client";
import { openRun, useJobChange } from "../api/job";
import { LinkDialog } from "../parts/LinkDialog";
import { ErrorNote } from "../parts/notes";
import { useProving } from "./useProving";

type FunctionOut = Proving["functions"][number];
type Outcome = "good" | "faulty" | "lost" | "was_so" | "not_there" | "not_tested";
const OTHERS: Record<Exclude<Outcome, "good" | "faulty">, string> = {
  lost: "Lost, as was to be expected",
  was_so: "Did not work before either",
  not_there: "The device has none",
  not_tested: "Not tested",
};
const WORDS: Record<Outcome, string> = { good: "Works", faulty: "Does not work", ...OTHERS };
const MARKS: Record<Outcome, State> = {
  good: "done",
  faulty: "failed",
  lost: "not_proven",
  was_so: "not_proven",
  not_there: "skipped",
  not_tested: "open",
};

interface Answered {
  function: string;
  outcome: Outcome;
  note: string;
}

function FunctionRow({
  one,
  closed,
  onAnswer,
}: {
  one: FunctionOut;
  closed: boolean;
  onAnswer: (answer: Answered) => void;
}) {
  const outcome = one.answer?.outcome as Outcome | undefined;
  const [note, setNote] = useState(one.answer?.note ?? "");
  const say = (to: Outcome) => {
    onAnswer({ function: one.id, outcome: to, note });
  };
  return (
    <Box
      component="li"
      aria-label={one.title}
      sx={{
        display: "grid",
        gridTemplateColumns: "18px minmax(0, 1fr)",
        columnGap: 1,
        py: 1,
        borderTop: 1,
        borderColor: "divider",
      }}
    >
      <StateMark state={outcome ? MARKS[outcome] : "open"} />
      <Box>
        <Typography sx={{ fontWeight: 600 }}>
          {one.title}
          {outcome && (
            <Box component="span" sx={{ fontWeight: 400, color: "text.secondary" }}>
              {" "}
              {WORDS[outcome]}
              {one.answer?.grade === "measured" && `, measured: ${one.answer.note}`}
            </Box>
          )}
        </Typography>
        <Typography variant="body2">{one.how}</Typography>
        <Typography variant="body2" color="textSecondary">
          {one.because} {one.expected && `To be expected: ${one.expected}`}
        </Typography>
        {!closed && (
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5, alignItems: "center" }}>
            <Button
              size="small"
              variant={outcome === "good" ? "contained" : "outlined"}
              sx={{ minHeight: 40 }}
              onClick={() => {
                say("good");
              }}
            >
              Works
            </Button>
            <Button
              size="small"
              variant={outcome === "faulty" ? "contained" : "outlined"}
              sx={{ minHeight: 40 }}
              onClick={() => {
                say("faulty");
              }}
            >
              Does not
            </Button>
            <TextField
              select
              size="small"
              label="Or"
              value={outcome && outcome in OTHERS ? outcome : ""}
              sx={{ width: 190 }}
              onChange={(event) => {
                say(event.target.value as Outcome);
              }}
            >
              {Object.entries(OTHERS).map(([id, words]) => (
                <MenuItem key={id} value={id}>
                  {words}
                </MenuItem>
              ))}
            </TextField>
            {outcome && outcome !== "good" && (
              <TextField
                size="small"
                label="Note"
                value={note}
                sx={{ flex: "1 1 160px" }}
                slotProps={{ htmlInput: { maxLength: 300 } }}
                onChange={(event) => {
                  setNote(event.target.value);
                }}
                onBlur={() => {
                  if (note !== (one.answer?.note ?? "")) say(outcome);
                }}
              />
            )}
          </Box>
        )}
        {closed && one.answer?.note && <Typography variant="body2">{one.answer.note}</Typography>}
      </Box>
    </Box>
  );
}

export function Functions({ job }: { job: Job }) {
  const proving = useProving(job.id);
  const answer = useJobChange<Answered>(job.id, (body) =>
    client.POST("/api/jobs/{job_id}/proving/functions", {
      params: { path: { job_id: job.id } },
      body: { ...body, grade: "seen" },
    }),
  );
  const queries = useQueryClient();
  const [link, setLink] = useState<number | null>(null);
  const opening = useMutation({
    mutationFn: () => openRun(job.id, "closed"),
    onSuccess: (run) => {
      setLink(run.id);
    },
  });
  const functions = proving.data?.functions ?? [];
  if (functions.length === 0) return null;
  const left = functions.filter((one) => !one.answer).length;
  return (
    <Box component="section" aria-label="Functions" sx={{ mb: 2 }}>
      <Typography variant="h2">Functions that were touched</Typography>
      <Typography variant="body2" color="textSecondary">
        {left === 0 ? "All are answered." : `${left} of ${functions.length} to test.`}
      </Typography>
      {!job.closed_at && (
        <Button
          size="small"
          disabled={opening.isPending}
          onClick={() => {
            opening.mutate();
          }}
        >
          Test on the device itself
        </Button>
      )}
      {link !== null && (
        <LinkDialog
          runId={link}
          kind="sense"
          onClose={() => {
            setLink(null);
            void queries.invalidateQueries({ queryKey: ["job", job.id, "proving"] });
          }}
        />
      )}
      <ErrorNote error={answer.error ?? opening.error} />
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
        {functions.map((one) => (
          <FunctionRow
            key={one.id}
            one={one}
            closed={Boolean(job.closed_at)}
            onAnswer={(told) => {
              answer.mutate(told);
            }}
          />
        ))}
      </Box>
    </Box>
  );
}
