import { Box, Typography } from "@mui/material";
import { Pane } from "../../pane/Pane";
import { StateMark, type State } from "../../theme/StateMark";
import type { Job } from "../api/client";
import { Empty } from "../parts/notes";
import { StageBench } from "../parts/StageBench";
import { Retests } from "../touch/Retests";
import { Functions } from "./Functions";
import { LookByEye } from "./LookByEye";
import { useProving } from "./useProving";
import { WholeVerdict } from "./WholeVerdict";

const STATES: Record<string, State> = { unchanged: "done", changed: "failed", not_proven: "not_proven" };
const TITLES: Record<string, string> = {
  unchanged: "Closing changed nothing",
  changed: "Closing changed something",
  not_proven: "Not proven",
};

function Compared({ job }: { job: Job }) {
  const dry = job.runs.find((run) => run.stage === "dry_fit")?.result;
  const closed = job.runs.find((run) => run.stage === "closed")?.result;
  const change = job.comparison;
  const panel = { width: job.panel_width, height: job.panel_height };
  if (!change)
    return <Empty>The comparison appears when the dry fit and the closed device are both photographed.</Empty>;
  return (
    <Box
      component="section"
      aria-label="Dry fit against closed"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, mb: 1.5 }}
    >
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={STATES[change.result] ?? "open"} size={26} />
        <Typography variant="h1" component="p">
          {TITLES[change.result]}
        </Typography>
      </Box>
      <Typography sx={{ my: 1 }}>{change.text}</Typography>
      <Typography variant="body2">
        {change.new.length} new, {change.gone.length} gone, {change.same.length} the same
        {change.unclear.length > 0 ? `, ${change.unclear.length} cannot be told` : ""}.
      </Typography>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1, mt: 1 }}>
        <Box>
          <Typography variant="body2">Dry fit</Typography>
          <Pane panel={panel} findings={dry?.findings ?? []} label="Dry fit" />
        </Box>
        <Box>
          <Typography variant="body2">Closed</Typography>
          <Pane panel={panel} findings={closed?.findings ?? []} label="Closed" />
        </Box>
      </Box>
    </Box>
  );
}

export function Prove({ job }: { job: Job }) {
  const touched = (useProving(job.id).data?.functions.length ?? 0) > 0;
  return (
    <>
      <Typography sx={{ mb: 1.5 }}>
        The full set once more on the closed device: closing can pinch a cable, press a mark or shift a connector.
      </Typography>
      <WholeVerdict job={job} />
      <Retests job={job} />
      <Compared job={job} />
      <LookByEye job={job} stage="closed" />
      <StageBench job={job} stage="closed" functions={touched ? <Functions job={job} /> : undefined} />
    </>
  );
}
