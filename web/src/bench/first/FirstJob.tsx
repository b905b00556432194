// What to do next in the first job, above the station's own work; and what the simulated device shows to whoever looks at it.

import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router";
import { STATIONS } from "../../pane/vocabulary.gen";
import type { Job, StationId } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { stepOf } from "../isolate/steps";
import { GUIDES } from "../stations/registry";
import { stepOfFirst } from "./guide";
import { type Practice, useJobPractice } from "./practice";

/** The answer to the check that is due at Isolate, as the device shows it. */
function Shown({ job, practice }: { job: Job; practice: Practice }) {
  const vocabulary = useVocabulary();
  const step = vocabulary.data ? stepOf(job, vocabulary.data, null) : null;
  if (!step) return null;
  const outcome = practice.answers[step.check];
  const answer = step.answers.find((one) => one.id === outcome);
  return (
    <Typography variant="body2">
      {answer ? (
        <>
          {step.title} This device shows: <strong>{answer.title}</strong>
          {answer.key ? ` (${answer.key.toUpperCase()}).` : "."}
        </>
      ) : step.repair ? (
        "That is the repair: it is clear enough. Go on to Inspect."
      ) : (
        "This is measured from photos: go on to Inspect."
      )}
    </Typography>
  );
}

export function FirstJob({ job, station }: { job: Job; station: StationId }) {
  const practice = useJobPractice(job);
  const [hidden, setHidden] = useState(false);
  if (!practice || hidden) return null;
  const step = stepOfFirst(job.stations, GUIDES);
  const here = GUIDES[station];
  const closed = Boolean(job.closed_at);
  return (
    <Box
      component="section"
      aria-label="First job"
      sx={{ borderLeft: 4, borderColor: "primary.main", pl: 1.5, py: 0.5, mb: 1.5 }}
    >
      <Typography sx={{ fontWeight: 600 }}>
        {closed || !step
          ? "First job: done"
          : `First job, step ${step.number} of ${step.of}: ${STATIONS[step.station].title}`}
      </Typography>
      {closed ? (
        <Typography variant="body2">
          That is a whole job. A job of your own goes the same way; the simulated camera and its buttons are there in
          the demo only.
        </Typography>
      ) : (
        <>
          {here && (
            <>
              <Typography variant="body2" color="textSecondary">
                {here.what}
              </Typography>
              <Typography variant="body2">{here.how}</Typography>
            </>
          )}
          {station === "isolate" && <Shown job={job} practice={practice} />}
          {station === "match" && (
            <Typography variant="body2">
              The label on this panel says <strong>{practice.number}</strong>.
            </Typography>
          )}
        </>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {!closed && step && step.station !== station && (
          <Button component={Link} to={`/jobs/${job.id}/${step.station}`} size="small" variant="outlined">
            Go to {STATIONS[step.station].title}
          </Button>
        )}
        <Button
          size="small"
          onClick={() => {
            setHidden(true);
          }}
        >
          Hide the guide
        </Button>
      </Box>
    </Box>
  );
}
