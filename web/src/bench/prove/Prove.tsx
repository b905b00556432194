import { Box, Typography } from "@mui/material";
import { Pane } from "../../pane/Pane";
import { StateMark, type State } from "../../theme/StateMark";
import type { Job } from "../api/client";
import { Empty } from "../parts/notes";
import { LookedBackList } from "../parts/LookedBackList";
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

function Compared({ job, hints }: { job: Job; hints: readonly string[] }) {
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
      {hints.map((words) => (
        <Typography key={words} sx={{ mb: 0.5 }}>
          {words}
        </Typography>
      ))}
      <Typography variant="body2">
        {change.new.length} new, {change.gone.length} gone, {change.same.length} the same
        {change.unclear.length > 0 ? `, ${change.unclear.length} cannot be told` : ""}.
      </Typography>
      <LookedBackList places={change.looked_back} then="the dry fit" />
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
  const proving = useProving(job.id).data;
  const touched = (proving?.functions.length ?? 0) > 0;
  return (
    <>
      <Typography sx={{ mb: 1.5 }}>
        The full set once more on the closed device: closing can pinch a cable, press a mark or shift a connector.
      </Typography>
      <WholeVerdict job={job} />
      <Retests job={job} />
      <Compared job={job} hints={proving?.closing_hints ?? []} />
      {(proving?.no_start.length ?? 0) > 0 && !job.closed_at && (
        <Box component="details" sx={{ mb: 1 }}>
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 44, display: "flex", alignItems: "center" }}>
            It does not start any more
          </Box>
          <Box component="ol" sx={{ pl: 2.5, my: 0 }}>
            {proving?.no_start.map((words) => (
              <li key={words}>
                <Typography>{words}</Typography>
              </li>
            ))}
          </Box>
        </Box>
      )}
      <LookByEye job={job} stage="closed" />
      <StageBench job={job} stage="closed" functions={touched ? <Functions job={job} /> : undefined} />
    </>
  );
}
