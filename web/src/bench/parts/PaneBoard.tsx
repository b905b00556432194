// The pane with its layers, and what was found, beside every station.

import { Box, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useCallback, useEffect, useMemo, useState } from "react";
import { Pane } from "../../pane/Pane";
import { STAGES } from "../../pane/vocabulary.gen";
import type { Job, NextShot, Run } from "../api/client";
import { useKeys } from "../keys/useKeys";
import { FindingDetail } from "./FindingDetail";
import { FindingList, sorted } from "./FindingList";
import { foldedOf, unmarkedOf } from "./folding";
import { LayerDrawing, LayerNotes, layersOf, type Layer } from "./layers";
import { TouchLayer } from "../../pane/TouchLayer";
import { useReplay } from "../touch/replay";
import { currentTouch } from "../touch/current";
import { TouchNotes } from "../touch/TouchNotes";
import { usePart } from "./StageBench";
import { NextShots } from "./NextShots";
import { Key } from "./notes";

/** Beside long work the pane stays where it is, and scrolls by itself when it is longer than the window. */
/** The map leaves room for the first findings; on a tall screen it takes what they leave. */
const MAP_HEIGHT = "max(min(56vh, 520px), calc(100vh - 430px))";
const KEPT_IN_VIEW = {
  position: { md: "sticky" },
  top: 0,
  alignSelf: "start",
  maxHeight: { md: "100vh" },
  overflowY: { md: "auto" },
} as const;

// in the order of the buttons; what was photographed at intake is no measurement
const SHOWN: Run["stage"][] = ["inspect", "dry_fit", "closed", "recheck", "external"];
/** Offered only when there is something to see. */
const RARE: readonly string[] = ["external", "recheck"];

/** Stages to look at: of a panel by itself those that it has, of a device the usual ones and what else it has. */
const shownStages = (job: Job): Run["stage"][] =>
  SHOWN.filter((id) => job.runs.some((one) => one.stage === id) || (job.subject === "device" && !RARE.includes(id)));

/** What the pane is blinked against: the stage before this one that was measured. */
function otherOf(job: Job, stage: Run["stage"]): Run["stage"] | null {
  const measured = SHOWN.filter(
    (id) =>
      id !== "external" && (job.runs.some((run) => run.stage === id && run.result) || currentTouch(job, id)?.result),
  );
  if (!measured.includes(stage) || measured.length < 2) return null;
  const at = measured.indexOf(stage);
  return measured[at > 0 ? at - 1 : 1] ?? null;
}

function frameOf(shot: NextShot | null) {
  if (!shot?.frame) return null;
  const [x = 0, y = 0, w = 0, h = 0] = shot.frame;
  return { x, y, w, h };
}

type Change<T> = (to: (now: T) => T) => void;

/** N and P walk the findings, L changes to the next layer, B held shows the inspection before. */
function usePaneKeys(
  order: readonly number[],
  layers: readonly Layer[],
  setSelected: Change<number | null>,
  setHeld: (held: boolean) => void,
  setLayer: Change<Layer>,
) {
  const walk = (by: number) => () => {
    if (order.length)
      setSelected((now) => {
        const at = now === null ? -1 : order.indexOf(now);
        return order[Math.min(Math.max(at + by, 0), order.length - 1)] ?? null;
      });
  };
  useKeys({
    b: () => {
      setHeld(true);
    },
    l: () => {
      setLayer((now) => layers[(layers.indexOf(now) + 1) % layers.length] ?? "faults");
    },
    n: walk(1),
    p: walk(-1),
  });
  useEffect(() => {
    const release = (event: Event) => {
      if (!(event instanceof KeyboardEvent) || event.key === "b") setHeld(false);
    };
    window.addEventListener("keyup", release);
    window.addEventListener("blur", release);
    return () => {
      window.removeEventListener("keyup", release);
      window.removeEventListener("blur", release);
    };
  }, [setHeld]);
}

export function PaneBoard({
  job,
  stage,
  onStage,
  below,
  drawing,
}: {
  job: Job;
  stage: Run["stage"];
  onStage: (stage: Run["stage"]) => void;
  below?: React.ReactNode;
  /** In place of an empty pane, else under it. */
  drawing?: React.ReactNode;
}) {
  const [selected, setSelected] = useState<number | null>(null);
  const [part] = usePart();
  // the layer that was picked, as long as the same part is looked at
  const [picked, setPicked] = useState<{ part: string; layer: Layer } | null>(null);
  const layerOf = useCallback(
    (now: typeof picked): Layer => (now?.part === part ? now.layer : part === "touch" ? "touch" : "faults"),
    [part],
  );
  const layer = layerOf(picked);
  const setLayer = useCallback(
    (to: (now: Layer) => Layer) => {
      setPicked((now) => ({ part, layer: to(layerOf(now)) }));
    },
    [part, layerOf],
  );
  const [kind, setKind] = useState(0);
  const [framed, setFramed] = useState<NextShot | null>(null);
  const [held, setHeld] = useState(false);
  const other = otherOf(job, stage);
  const shown = held && other ? other : stage;
  const run = job.runs.find((one) => one.stage === shown);
  const result = run?.result ?? null;
  const findings = useMemo(() => run?.result?.findings ?? [], [run]);
  const fresh = useMemo(() => {
    if (shown !== "closed" || !job.comparison) return undefined;
    const added = job.comparison.new;
    return new Set(findings.flatMap((f, i) => (added.some((n) => n.x === f.x && n.y === f.y) ? [i] : [])));
  }, [shown, job.comparison, findings]);
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set());
  const folded = useMemo(() => foldedOf(findings, unfolded), [findings, unfolded]);
  const order = useMemo(() => {
    const away = new Set([...folded.values()].flat());
    return sorted(findings, run?.result?.verdict).filter((index) => !away.has(index));
  }, [findings, run, folded]);
  const touch = currentTouch(job, shown);
  const touched = touch?.result ?? null;
  const replay = useReplay(touch?.id ?? null);
  const offered = useMemo(() => layersOf(result, Boolean(touched)), [result, touched]);
  const layers = useMemo(() => offered.map(([id]) => id), [offered]);
  const drawn = layers.includes(layer) ? layer : "faults";
  usePaneKeys(order, layers, setSelected, setHeld, setLayer);
  const photographed = run?.photos.some((photo) => !photo.removed);
  const empty =
    drawn === "touch"
      ? undefined
      : part === "touch" && !result
        ? "Nothing drawn yet"
        : !photographed
          ? "Nothing photographed yet"
          : !result
            ? "Photos are being read"
            : undefined;
  const panel = { width: job.panel_width, height: job.panel_height };
  const chosen = selected === null ? undefined : findings[selected];
  return (
    <Box
      sx={{ minWidth: 0, p: { xs: 1, md: 2 }, bgcolor: "background.default", order: { xs: 3, md: 0 }, ...KEPT_IN_VIEW }}
      tabIndex={-1}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={shown}
          aria-label="Which inspection the pane shows"
          onChange={(_, value: Run["stage"] | null) => {
            if (value) {
              onStage(value);
              setSelected(null);
            }
          }}
        >
          {shownStages(job).map((id) => (
            <ToggleButton key={id} value={id}>
              {STAGES[id].title}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        {offered.length > 1 && (
          <ToggleButtonGroup
            exclusive
            size="small"
            value={drawn}
            aria-label="Layer"
            onChange={(_, value: Layer | null) => {
              if (value) setLayer(() => value);
            }}
          >
            {offered.map(([id, title]) => (
              <ToggleButton key={id} value={id}>
                {title}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        )}
        <Typography variant="body2" color="textSecondary">
          {job.panel_width} x {job.panel_height} px{job.diagonal_in ? `, ${job.diagonal_in} in` : ""}
        </Typography>
        {other && (
          <Typography variant="body2" color="textSecondary">
            Hold <Key>B</Key>: {STAGES[other].title.toLowerCase()}
          </Typography>
        )}
      </Box>
      {!(empty && drawing) && (
        <Pane
          panel={panel}
          findings={findings}
          unproven={drawn === "touch" ? [] : (result?.unproven_cells ?? [])}
          selected={held ? null : selected}
          onSelect={setSelected}
          unmarked={unmarkedOf(folded)}
          fresh={fresh}
          empty={empty}
          frame={frameOf(framed)}
          maxHeight={MAP_HEIGHT}
          label={`Pane: ${findings.length} findings`}
          layer={
            drawn === "touch" && touched ? (
              <TouchLayer
                panel={panel}
                columns={touched.cells.columns}
                rows={touched.cells.rows}
                zones={touched.dead_zones}
                unproven={touched.unproven_cells}
                suspected={touched.suspected_cells ?? []}
                phantoms={touched.phantom}
                strokes={replay.strokes}
                until={replay.until}
              />
            ) : (
              result && <LayerDrawing layer={drawn} job={job} result={result} kind={kind} />
            )
          }
        />
      )}
      {drawn === "touch" && touch && <TouchNotes touch={touch} replay={replay} />}
      {drawing}
      {below}
      {result && drawn !== "touch" && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>
          Hatched: not proven. {result.smallest_proven}
        </Typography>
      )}
      {result && run && !job.closed_at && drawn !== "touch" && (
        <NextShots
          shots={(result.next_shots ?? []).filter(
            (shot) => shot.from_side || shot.later || result.verdict.result !== "fail",
          )}
          runId={run.id}
          framed={framed}
          onFrame={setFramed}
        />
      )}
      {result && <LayerNotes layer={drawn} job={job} result={result} at={chosen} kind={kind} onKind={setKind} />}
      {chosen && run && !held && (
        <FindingDetail
          key={`${chosen.kind}.${chosen.x}.${chosen.y}`}
          finding={chosen}
          run={run}
          panel={panel}
          closed={Boolean(job.closed_at)}
          canSimulate={job.can_simulate}
        />
      )}
      <FindingList
        findings={findings}
        order={order}
        folded={folded}
        onUnfold={(heap) => {
          setUnfolded((now) => new Set([...now, heap]));
        }}
        fresh={fresh}
        selected={selected}
        onSelect={setSelected}
      />
    </Box>
  );
}
