// One job: the stations in a column, the pane always in view, the station's own work beside it.

import { Box, Button, Typography } from "@mui/material";
import { Suspense, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Job, Run, StationId } from "./api/client";
import { useJob } from "./api/job";
import { useLive } from "./api/live";
import { FirstJob } from "./first/FirstJob";
import { useKeys } from "./keys/useKeys";
import { ErrorNote, Key, Waiting } from "./parts/notes";
import { PaneBoard } from "./parts/PaneBoard";
import { StationColumn } from "./StationColumn";
import { PlanLine } from "./jobs/PlanLine";
import { SCREENS, stageOf, STATION_ORDER } from "./stations/registry";

const STATIONS_PX = 180;
/** The rule beside the stations runs as far as the page does; the column itself stays in view. */
const STATIONS_RULE = {
  content: '""',
  display: { xs: "none", md: "block" },
  position: "absolute",
  top: 0,
  bottom: 0,
  left: STATIONS_PX - 1,
  width: "1px",
  bgcolor: "divider",
} as const;

/** To the station before and the one after, for whoever works them in order. */
function OnButtons({ job, station }: { job: Job; station: StationId }) {
  const at = job.stations.findIndex((one) => one.id === station);
  const before = job.stations[at - 1];
  const after = job.stations[at + 1];
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 3, pt: 1.5, borderTop: 1, borderColor: "divider" }}>
      {before && (
        <Button component={Link} to={`/jobs/${job.id}/${before.id}`}>
          Back to {before.title}
        </Button>
      )}
      {after && (
        <Button component={Link} to={`/jobs/${job.id}/${after.id}`} variant="outlined" sx={{ ml: "auto" }}>
          On to {after.title}
        </Button>
      )}
    </Box>
  );
}

export function JobScreen() {
  const { id, station: asked } = useParams();
  const jobId = Number(id);
  const go = useNavigate();
  const job = useJob(jobId);
  const linked = useLive(jobId);
  const shown = job.data?.stations.map((one) => one.id) ?? STATION_ORDER;
  const station = shown.find((one) => one === asked) ?? job.data?.station ?? "intake";
  const { Work, Below, Drawing } = SCREENS[station];
  const [chosen, setChosen] = useState<{ station: StationId; stage: Run["stage"] } | null>(null);
  const stage = chosen?.station === station ? chosen.stage : stageOf(station);
  const setStage = (to: Run["stage"]) => {
    setChosen({ station, stage: to });
  };
  useKeys(
    Object.fromEntries(
      shown.map((one, index) => [
        String(index + 1),
        () => {
          void go(`/jobs/${jobId}/${one}`);
        },
      ]),
    ),
  );
  if (job.isPending) return <Waiting words="Loading the job" />;
  if (!job.data)
    return (
      <Box sx={{ p: 2 }}>
        <ErrorNote error={job.error} onRetry={() => void job.refetch()} />
      </Box>
    );
  return (
    <Box
      sx={{
        display: "grid",
        flex: 1,
        position: "relative",
        gridTemplateColumns: {
          xs: "minmax(0, 1fr)",
          md: `${STATIONS_PX}px minmax(0, 1fr) minmax(360px, 430px)`,
          xl: `${STATIONS_PX}px minmax(0, 1fr) clamp(430px, 29vw, 620px)`,
        },
        "&::before": STATIONS_RULE,
      }}
    >
      <StationColumn job={job.data} station={station} />
      <PaneBoard
        job={job.data}
        stage={stage}
        onStage={setStage}
        below={Below && <Below job={job.data} />}
        drawing={Drawing && <Drawing job={job.data} />}
      />
      <Box
        component="section"
        aria-label="Station"
        sx={{
          minWidth: 0,
          borderStyle: "solid",
          borderWidth: { xs: "1px 0 0", md: "0 0 0 1px" },
          borderColor: "divider",
          p: 2,
          bgcolor: "background.paper",
        }}
      >
        {!linked && (
          <Typography role="status" variant="body2" color="warning">
            The live link is away; it comes back by itself.
          </Typography>
        )}
        <Typography variant="h1" sx={{ overflowWrap: "anywhere" }}>
          {job.data.title}
        </Typography>
        <Typography variant="body2" color="textSecondary" sx={{ mb: 1.5 }}>
          {job.data.subject === "panel" ? "Panel inspection" : "Job"} {job.data.id}
          {job.data.closed_at ? ", closed" : ""}. Stations: <Key>1</Key> to <Key>{job.data.stations.length}</Key>
        </Typography>
        {job.data.can_simulate && <FirstJob job={job.data} station={station} />}
        <PlanLine job={job.data} />
        <Suspense fallback={<Waiting words="Opening the station" />}>
          <Work job={job.data} />
        </Suspense>
        <OnButtons job={job.data} station={station} />
      </Box>
    </Box>
  );
}
