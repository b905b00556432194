// The touch of one stage: record, judge, repeat what is missing, keep.

import { Box, Button, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import { client, got, type Job, type Stage, type Touch } from "../api/client";
import { sendRecording } from "../api/files";
import { useSingle, useWhen } from "../api/hooks";
import { useJobChange, useStageRun } from "../api/job";
import { useKeys } from "../keys/useKeys";
import { LinkDialog } from "../parts/LinkDialog";
import { Empty, ErrorNote, Key } from "../parts/notes";
import { currentTouch } from "./current";
import { LiveCard, type Do } from "./LiveCard";
import { DRAWN_WITH, StartCard, type DrawnWith, type Start } from "./StartCard";
import { TouchByEye } from "./TouchByEye";
import { TouchVerdict } from "./TouchVerdict";

const SOURCES: Record<string, string> = { glass: "glass", file: "file", simulated: "simulated finger" };

function Earlier({
  touches,
  current,
  onWithdraw,
  locked,
}: {
  touches: Touch[];
  current?: Touch;
  onWithdraw: (id: number, withdrawn: boolean) => void;
  locked: boolean;
}) {
  const when = useWhen();
  if (!touches.length) return null;
  return (
    <Box component="section" aria-label="Touch sessions" sx={{ mt: 2 }}>
      <Typography variant="h2">Sessions</Typography>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {[...touches].reverse().map((one) => (
          <Box
            component="li"
            key={one.id}
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
            <StateMark state={one.status === "withdrawn" ? "skipped" : ofVerdict(one.result?.verdict)} size={16} />
            <Typography variant="body2" sx={{ flex: "1 1 220px" }}>
              {when(one.made_at)}, {one.made_by}, {SOURCES[one.source] ?? one.source}
              {one.drawn_with in DRAWN_WITH ? `, ${DRAWN_WITH[one.drawn_with as DrawnWith].toLowerCase()}` : ""},{" "}
              {one.events} reports.{" "}
              {one.status === "withdrawn"
                ? "Withdrawn."
                : one.result
                  ? `${VERDICT_WORDS[one.result.verdict]}${one === current ? "; this one counts." : "."}`
                  : "Not judged yet."}
            </Typography>
            <Button size="small" component="a" href={`/api/touch/${one.id}/session.jsonl`} download>
              Save
            </Button>
            {!locked && (
              <Button
                size="small"
                onClick={() => {
                  onWithdraw(one.id, one.status !== "withdrawn");
                }}
              >
                {one.status === "withdrawn" ? "Count it again" : "Withdraw"}
              </Button>
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

export function TouchBench({ job, stage }: { job: Job; stage: Stage }) {
  const locked = Boolean(job.closed_at) && !(stage === "recheck" && job.rechecks.some((one) => !one.settled_at));
  const { run, opening } = useStageRun(job, stage, locked);
  const [link, setLink] = useState(false);
  const path = { run_id: run?.id ?? 0 };
  const touches = job.touches.filter((one) => one.stage === stage);
  const current = currentTouch(job, stage);
  const open = touches.find((one) => one.status === "open");
  const of = (id: number) => ({ params: { path: { session_id: id } } });
  const start = useJobChange<Start>(job.id, (body) =>
    client.POST("/api/runs/{run_id}/touch", { params: { path }, body }),
  );
  const more = useJobChange<"missing" | "free" | "soak">(job.id, (what) =>
    client.POST("/api/touch/{session_id}/more", { ...of(current?.id ?? 0), body: { what } }),
  );
  const end = useJobChange<number>(job.id, (id) => client.POST("/api/touch/{session_id}/end", of(id)));
  const withdraw = useJobChange<{ id: number; withdrawn: boolean }>(job.id, ({ id, withdrawn }) =>
    client.PATCH("/api/touch/{session_id}", { ...of(id), body: { withdrawn, reason: "" } }),
  );
  const file = useJobChange<{ file: File; plan: File | null }>(job.id, ({ file: recording, plan }) =>
    sendRecording(path.run_id, recording, plan),
  );
  const simulate = useSingle(
    useMutation<unknown, Error, number>({
      mutationFn: (id) => got(client.POST("/api/touch/{session_id}/simulate", of(id))),
    }),
  );
  const command = useMutation({
    scope: { id: "touch" },
    mutationFn: (what: Do) =>
      got(client.POST("/api/touch/{session_id}/command", { ...of(open?.id ?? 0), body: { do: what } })),
  });
  const { mutate: order } = command;
  const { mutate: ask } = more;
  const onDo = useCallback(
    (what: Do) => {
      order(what);
    },
    [order],
  );
  const missing = current?.result ? current.result.unproven_cells.length || current.result.dead_zones.length : 0;
  const repeatable = Boolean(missing) && !locked;
  useKeys({
    m: repeatable
      ? () => {
          ask("missing");
        }
      : undefined,
  });
  if (!run)
    return locked ? (
      <Empty>No touch was recorded at this stage.</Empty>
    ) : (
      <ErrorNote
        error={opening.error}
        onRetry={() => {
          opening.mutate();
        }}
      />
    );
  return (
    <Box>
      {open && !locked && (
        <LiveCard
          job={job}
          touch={open}
          linked={run.glass !== null}
          onDo={onDo}
          onEnd={() => {
            end.mutate(open.id);
          }}
          onSimulate={() => {
            simulate.mutate(open.id);
          }}
          onLink={() => {
            setLink(true);
          }}
        />
      )}
      <ErrorNote
        error={
          start.error ?? more.error ?? end.error ?? withdraw.error ?? file.error ?? simulate.error ?? command.error
        }
      />
      {current && <TouchVerdict touch={current} />}
      {job.touch_comparison && current && stage !== "inspect" && (
        <Typography sx={{ mb: 1 }}>Against the session before: {job.touch_comparison.text}</Typography>
      )}
      {current?.result && !locked && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mb: 1.5 }}>
          <Button
            variant="outlined"
            disabled={!repeatable}
            onClick={() => {
              ask("missing");
            }}
          >
            Draw only what is missing{" "}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>M</Key>
            </Box>
          </Button>
          <Button
            onClick={() => {
              ask("free");
            }}
          >
            Free drawing
          </Button>
          <Button
            onClick={() => {
              ask("soak");
            }}
          >
            Hands off once more
          </Button>
        </Box>
      )}
      {!open && !locked && (
        <StartCard
          run={run}
          first={!current}
          cracked={stage === "inspect" && job.cracked}
          onStart={start.mutate}
          onFile={(recording, plan) => {
            file.mutate({ file: recording, plan });
          }}
        />
      )}
      <TouchByEye job={job} stage={stage} locked={locked} />
      <Earlier
        touches={touches}
        current={current}
        locked={locked}
        onWithdraw={(id, withdrawn) => {
          withdraw.mutate({ id, withdrawn });
        }}
      />
      {link && (
        <LinkDialog
          runId={run.id}
          kind="glass"
          onClose={() => {
            setLink(false);
          }}
        />
      )}
    </Box>
  );
}
