// Patterns out, photos in: the same work for the panel as received, at dry fit and when closed.

import { Box, Button, Chip, FormControlLabel, Switch, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { startTransition, useCallback, useEffect, useRef, useState } from "react";
import { client, got, type Job, type Stage } from "../api/client";
import { useSingle } from "../api/hooks";
import { useJobChange, useStageRun } from "../api/job";
import { onLive } from "../api/live";
import { useKeys } from "../keys/useKeys";
import { BrightnessCard } from "./BrightnessCard";
import { GlassState } from "./GlassState";
import { LinkDialog } from "./LinkDialog";
import { Empty, ErrorNote, Key } from "./notes";
import { PhotoList } from "./PhotoList";
import { Refusals } from "./Refusals";
import { useSending } from "./sending";
import { SetChoice } from "./SetChoice";
import { ShownBy } from "./ShownBy";
import { nextMissing, useSteppingOn } from "./stepping";
import { VerdictCard } from "./VerdictCard";
import { useWaitWords } from "./waiting";

/** `inStepWith` is another run whose glass shows every pattern along with this one's. */
export function PhotoBench({ job, stage, inStepWith }: { job: Job; stage: Stage; inStepWith?: number }) {
  const queries = useQueryClient();
  const closed = Boolean(job.closed_at);
  const { run, opening: begin } = useStageRun(job, stage, closed);
  const [link, setLink] = useState<"glass" | "snap" | "home" | null>(null);
  const [ways, setWays] = useState(false);
  const [shown, setShown] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const sending = useSending(run);
  const simulate = useSingle(
    useMutation<unknown, Error, string>({
      mutationFn: (pattern: string) =>
        got(
          client.POST("/api/runs/{run_id}/simulate", { params: { path: { run_id: run?.id ?? 0 } }, body: { pattern } }),
        ),
    }),
  );
  const current = shown ?? run?.pattern ?? "white";
  // two quick presses come before the page is drawn anew, so the keys step from here and not from what is drawn
  const latest = useRef(current);
  const underway = useRef(0);
  const show = useMutation({
    scope: { id: "pattern" }, // one after the other, so that the last press is the last to arrive
    mutationFn: (pattern: string) =>
      Promise.all(
        [run?.id ?? 0, ...(inStepWith ? [inStepWith] : [])].map((run_id) =>
          got(client.POST("/api/runs/{run_id}/pattern", { params: { path: { run_id } }, body: { pattern } })),
        ),
      ),
    // this page is drawn when the message is through: drawing it at once would hold up the glass
    onSuccess: (_, pattern) => {
      startTransition(() => {
        setShown(pattern);
      });
    },
    onError: () => {
      if (underway.current === 1) latest.current = current;
    },
    onSettled: () => {
      underway.current -= 1;
    },
  });
  const choose = useMutation({
    mutationFn: (chosen: { pattern_set?: string; own_yaml?: string }) =>
      got(
        client.POST("/api/runs/{run_id}/set", {
          params: { path: { run_id: run?.id ?? 0 } },
          body: { pattern_set: "", own_yaml: "", ...chosen },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["job", job.id] }),
  });
  const again = useJobChange<null>(job.id, () =>
    client.POST("/api/runs/{run_id}/analyse", { params: { path: { run_id: run?.id ?? 0 } } }),
  );
  const { mutate: showPattern } = show;
  useEffect(() => {
    if (underway.current === 0) latest.current = current;
  }, [current]);
  const showNow = useCallback(
    (pattern: string) => {
      latest.current = pattern;
      underway.current += 1;
      showPattern(pattern);
    },
    [showPattern],
  );
  const step = useCallback(
    (by: number) => {
      if (!run || closed) return;
      const at = run.patterns.indexOf(latest.current);
      showNow(run.patterns[(at + by + run.patterns.length) % run.patterns.length] ?? "white");
    },
    [run, closed, showNow],
  );
  const after = useCallback(
    (photographed: string) => {
      const photos = run?.photos.filter((photo) => !photo.removed && photo.report?.px_per_px) ?? [];
      return run && !closed
        ? nextMissing(run.patterns, new Set(photos.map((photo) => photo.report?.pattern ?? null)), photographed)
        : null;
    },
    [run, closed],
  );
  const unread = run?.photos.filter((photo) => !photo.removed && ["queued", "reading"].includes(photo.status)) ?? [];
  const waits = useWaitWords(unread.length);
  const [stepsOn, setStepsOn] = useSteppingOn(run?.id, latest, after, showNow);
  useEffect(
    () =>
      onLive((event) => {
        // what this page sent itself is drawn when its answer comes
        if (event.what === "pattern" && event.run === run?.id && event.pattern && underway.current === 0)
          setShown(event.pattern);
      }),
    [run?.id],
  );
  const on = () => {
    step(1);
  };
  const back = () => {
    step(-1);
  };
  useKeys({ " ": on, ArrowRight: on, PageDown: on, ArrowLeft: back, PageUp: back });
  if (!run)
    return closed ? (
      <Empty>Nothing was photographed at this stage.</Empty>
    ) : (
      <ErrorNote
        error={begin.error}
        onRetry={() => {
          begin.mutate();
        }}
      />
    );
  const photos = run.photos.filter((photo) => !photo.removed);
  const have = new Set(photos.flatMap((photo) => (photo.report?.px_per_px ? [photo.report.pattern] : [])));
  const left = run.patterns.filter((id) => !have.has(id));
  const setting = /^brightness-(\d+)$/.exec(current)?.[1];
  const failed = run.status === "failed";
  const busy =
    ["queued", "working"].includes(run.status) ||
    (!failed && photos.some((photo) => !photo.report && photo.status !== "refused"));
  const verdict = run.result && photos.length > 0 && <VerdictCard result={run.result} left={left.length} />;
  // while patterns are still shot their buttons stay where they are; then the verdict stands first
  const complete = left.length === 0 || closed;
  return (
    <Box>
      {complete && verdict}
      {!closed && (
        <Box
          component="section"
          aria-label="Patterns"
          sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5 }}
        >
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr auto 1fr", alignItems: "center", gap: 1 }}>
            <Button
              variant="outlined"
              onClick={() => {
                step(-1);
              }}
            >
              Previous{" "}
              <Box component="span" sx={{ ml: 1 }}>
                <Key>←</Key>
              </Box>
            </Button>
            <Typography
              variant="h1"
              component="p"
              aria-live="polite"
              data-testid="pattern"
              sx={{ textAlign: "center", minWidth: 100 }}
            >
              {current}
            </Typography>
            <Button
              variant="contained"
              onClick={() => {
                step(1);
              }}
            >
              Next{" "}
              <Box component="span" sx={{ ml: 1 }}>
                <Box component="kbd" sx={{ fontFamily: "inherit", fontSize: "0.75rem" }}>
                  Space
                </Box>
              </Box>
            </Button>
          </Box>
          {setting && (
            <Typography sx={{ textAlign: "center", mt: 0.5 }}>
              Set the device's brightness control to {setting} %, then shoot. Leave the camera's exposure on automatic.
            </Typography>
          )}
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, my: 1 }}>
            {run.patterns.map((id) => (
              <Chip
                key={id}
                size="small"
                clickable
                variant={id === current ? "filled" : "outlined"}
                label={have.has(id) ? `✓ ${id}` : id}
                onClick={() => {
                  showNow(id);
                }}
                sx={{ minHeight: 32 }}
              />
            ))}
          </Box>
          <FormControlLabel
            control={
              <Switch
                checked={stepsOn}
                onChange={(event) => {
                  setStepsOn(event.target.checked);
                }}
              />
            }
            label="Next pattern after a good photo"
          />
          <GlassState run={run} />
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
            <Button
              variant="outlined"
              onClick={() => {
                setLink("glass");
              }}
            >
              Show patterns on the device
            </Button>
            <Button
              variant="outlined"
              onClick={() => {
                setLink("snap");
              }}
            >
              Phone camera
            </Button>
            <Button component="a" href={`/api/runs/${run.id}/patterns.zip`} download>
              Patterns as ZIP
            </Button>
            {!run.glass && (
              <Button
                aria-expanded={ways}
                onClick={() => {
                  setWays(!ways);
                }}
              >
                It cannot open our page
              </Button>
            )}
          </Box>
          {ways && !run.glass && (
            <ShownBy
              run={run}
              jobId={job.id}
              onPage={() => {
                setLink("glass");
              }}
              onHome={() => {
                setLink("home");
              }}
            />
          )}
          <SetChoice run={run} onChoose={choose.mutate} />
          <ErrorNote error={show.error ?? choose.error} />
        </Box>
      )}
      {!closed && (
        <Box
          sx={{
            mt: 1.5,
            p: 1.5,
            border: 2,
            borderStyle: "dashed",
            borderColor: over ? "primary.main" : "divider",
            borderRadius: 1,
          }}
          onDragOver={(event) => {
            event.preventDefault();
            setOver(true);
          }}
          onDragLeave={() => {
            setOver(false);
          }}
          onDrop={(event) => {
            event.preventDefault();
            setOver(false);
            void sending.send([...event.dataTransfer.files]);
          }}
        >
          <input
            ref={chooser}
            type="file"
            multiple
            hidden
            aria-label="Photos"
            accept="image/*,.heic,.heif,.tif,.tiff,.dng"
            onChange={(event) => {
              void sending.send([...(event.target.files ?? [])]);
              event.target.value = "";
            }}
          />
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
            <Button variant="outlined" onClick={() => chooser.current?.click()}>
              Choose photos
            </Button>
            <Typography variant="body2" color="textSecondary">
              or drop them here.
            </Typography>
            {job.can_simulate && (
              <>
                <Button
                  onClick={() => {
                    simulate.mutate(current);
                  }}
                  disabled={simulate.isPending}
                >
                  Simulated camera: shoot {current}
                </Button>
                <Button
                  onClick={() => {
                    simulate.mutate("");
                  }}
                  disabled={simulate.isPending}
                >
                  Simulated camera: whole set
                </Button>
              </>
            )}
          </Box>
          <Typography role="status" variant="body2" sx={{ mt: 0.5 }}>
            {sending.open > 0 ? `Sending ${sending.open}. ` : ""}
            {busy
              ? waits || "The photos are being judged."
              : left.length && photos.length
                ? `Still to shoot: ${left.join(", ")}.`
                : ""}
          </Typography>
          <Refusals sending={sending} />
          <ErrorNote error={simulate.error} />
        </Box>
      )}
      {failed && (
        <ErrorNote
          error={
            new Error(
              "Clear Lens failed while judging these photos. That is an error of the program, not of the photos: its log has it. Nothing is lost.",
            )
          }
          {...(closed
            ? {}
            : {
                onRetry: () => {
                  again.mutate(null);
                },
              })}
        />
      )}
      <ErrorNote error={again.error} />
      {!complete && verdict}
      {photos.length > 0 && <BrightnessCard run={run} closed={closed} canSimulate={job.can_simulate} />}
      <PhotoList run={run} closed={closed} />
      {link && (
        <LinkDialog
          runId={run.id}
          kind={link}
          onClose={() => {
            setLink(null);
          }}
        />
      )}
    </Box>
  );
}
