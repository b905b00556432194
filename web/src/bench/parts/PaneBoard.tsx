// The pane with its layers, and what was found, beside every station.

import { Box, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useEffect, useMemo, useState } from "react";
import { CELL_COLUMNS } from "../../pane/geometry";
import { LightLayer } from "../../pane/LightLayer";
import { Pane } from "../../pane/Pane";
import { ProfilePlot } from "../../pane/ProfilePlot";
import type { Job, NextShot, Run } from "../api/client";
import { typing } from "../keys";
import { FindingDetail } from "./FindingDetail";
import { FindingList, sorted } from "./FindingList";
import { NextShots } from "./NextShots";
import { Key } from "./notes";

/** Beside long work the pane stays where it is, and scrolls by itself when it is longer than the window. */
const KEPT_IN_VIEW = { position: { md: "sticky" }, top: 0, alignSelf: "start", maxHeight: { md: "100vh" }, overflowY: { md: "auto" } } as const;

const STAGES: [Run["stage"], string][] = [["inspect", "As received"], ["dry_fit", "Dry fit"], ["closed", "Closed"], ["external", "External"]];

/** What the pane is blinked against: the stage before this one that was measured. */
function otherOf(job: Job, stage: Run["stage"]): Run["stage"] | null {
  const measured = STAGES.map(([id]) => id).filter((id) => id !== "external" && job.runs.some((run) => run.stage === id && run.result));
  if (!measured.includes(stage) || measured.length < 2) return null;
  const at = measured.indexOf(stage);
  return measured[at > 0 ? at - 1 : 1] ?? null;
}

function frameOf(shot: NextShot | null) {
  if (!shot?.frame) return null;
  const [x = 0, y = 0, w = 0, h = 0] = shot.frame;
  return { x, y, w, h };
}

type Layer = "faults" | "light";
type Change<T> = (to: (now: T) => T) => void;

/** N and P walk the findings, L changes the layer, B held shows the inspection before. */
function usePaneKeys(order: readonly number[], setSelected: Change<number | null>, setHeld: (held: boolean) => void, setLayer: Change<Layer>) {
  useEffect(() => {
    const onUp = (event: KeyboardEvent) => { if (event.key === "b") setHeld(false); };
    const release = () => { setHeld(false); };
    const onDown = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "b") setHeld(true);
      if (event.key === "l") setLayer((now) => (now === "light" ? "faults" : "light"));
      if ((event.key === "n" || event.key === "p") && order.length) {
        setSelected((now) => {
          const at = now === null ? -1 : order.indexOf(now);
          return order[event.key === "n" ? Math.min(at + 1, order.length - 1) : Math.max(at - 1, 0)] ?? null;
        });
      }
    };
    window.addEventListener("keydown", onDown);
    window.addEventListener("keyup", onUp);
    window.addEventListener("blur", release);
    return () => { window.removeEventListener("keydown", onDown); window.removeEventListener("keyup", onUp); window.removeEventListener("blur", release); };
  }, [order, setSelected, setHeld, setLayer]);
}

export function PaneBoard({ job, stage, onStage }: { job: Job; stage: Run["stage"]; onStage: (stage: Run["stage"]) => void }) {
  const [selected, setSelected] = useState<number | null>(null);
  const [layer, setLayer] = useState<Layer>("faults");
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
    return new Set(findings.flatMap((f, i) => (added.some((n) => n.x === f.x && n.y === f.y && n.kind === f.kind) ? [i] : [])));
  }, [shown, job.comparison, findings]);
  const order = useMemo(() => sorted(findings, run?.result?.verdict), [findings, run]);
  usePaneKeys(order, setSelected, setHeld, setLayer);
  const photographed = run?.photos.some((photo) => !photo.removed);
  const empty = !photographed ? "Nothing photographed yet" : !result ? "Photos are being read" : undefined;
  const grid = result?.light_map ?? null;
  const chosen = selected === null ? undefined : findings[selected];
  const row = grid ? Math.min(grid.rows - 1, Math.floor(((chosen?.y ?? job.panel_height / 2) / job.panel_height) * grid.rows)) : 0;
  const column = grid ? Math.min(CELL_COLUMNS - 1, Math.floor(((chosen?.x ?? job.panel_width / 2) / job.panel_width) * CELL_COLUMNS)) : 0;
  return (
    <Box sx={{ minWidth: 0, p: { xs: 1, md: 2 }, bgcolor: "background.default", ...KEPT_IN_VIEW }} tabIndex={-1}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
        <ToggleButtonGroup exclusive size="small" value={shown} aria-label="Which inspection the pane shows"
          onChange={(_, value: Run["stage"] | null) => { if (value) { onStage(value); setSelected(null); } }}>
          {STAGES.filter(([id]) => id !== "external" || job.runs.some((one) => one.stage === id)).map(([id, title]) => <ToggleButton key={id} value={id}>{title}</ToggleButton>)}
        </ToggleButtonGroup>
        {grid && (
          <ToggleButtonGroup exclusive size="small" value={layer} aria-label="Layer" onChange={(_, value: Layer | null) => { if (value) setLayer(value); }}>
            <ToggleButton value="faults">Faults</ToggleButton>
            <ToggleButton value="light">Light</ToggleButton>
          </ToggleButtonGroup>
        )}
        <Typography variant="body2" color="textSecondary">{job.panel_width} x {job.panel_height} px{job.diagonal_in ? `, ${job.diagonal_in} in` : ""}</Typography>
        {other && <Typography variant="body2" color="textSecondary">Hold <Key>B</Key>: {STAGES.find(([id]) => id === other)?.[1].toLowerCase()}</Typography>}
      </Box>
      <Pane panel={{ width: job.panel_width, height: job.panel_height }} findings={findings} unproven={result?.unproven_cells ?? []}
        selected={held ? null : selected} onSelect={setSelected} fresh={fresh} empty={empty} frame={frameOf(framed)} maxHeight="min(56vh, 520px)" label={`Pane: ${findings.length} findings`}
        layer={layer === "light" && grid && <LightLayer panel={{ width: job.panel_width, height: job.panel_height }} grid={grid} points={result?.uniformity?.points ?? []} />} />
      {result && <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>Hatched: not proven. {result.smallest_proven}</Typography>}
      {result && run && !job.closed_at && result.verdict.result !== "fail" && <NextShots shots={result.next_shots ?? []} runId={run.id} framed={framed} onFrame={setFramed} />}
      {layer === "light" && grid && (
        <Box sx={{ mt: 1 }}>
          <Typography variant="body2" color="textSecondary">Lines: light in percent of its median, lens fall-off taken off. Large figures: the nine points, in percent of the brightest.</Typography>
          <ProfilePlot grid={grid} along="row" index={row} label={chosen ? `along row ${Math.round(chosen.y)}` : "along the middle row"} />
          <ProfilePlot grid={grid} along="column" index={column} label={chosen ? `along column ${Math.round(chosen.x)}` : "along the middle column"} />
        </Box>
      )}
      {chosen && run && !held && <FindingDetail key={`${chosen.kind}.${chosen.x}.${chosen.y}`} finding={chosen} run={run} closed={Boolean(job.closed_at)} />}
      <FindingList findings={findings} order={order} fresh={fresh} selected={selected} onSelect={setSelected} />
    </Box>
  );
}
