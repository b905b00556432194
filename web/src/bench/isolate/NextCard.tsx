// The one next thing as a large card: what to do, what to beware of, and a key for each answer.

import { Alert, Box, Button, Typography } from "@mui/material";
import type { Job } from "../api/client";
import { useKeys } from "../keys/useKeys";
import { Key } from "../parts/notes";
import { EdidChooser } from "./EdidCard";
import { MeterEntry } from "./MeterCard";
import { SKIP_KEY, type Step } from "./steps";

const EDID = "edid",
  LUMINANCE = "luminance";
/** Checks that photos answer; most can be answered by hand too. */
const PHOTOGRAPHED = ["photos", "ramp", "torch_photo"];
/** Checks that a touch session answers. */
const DRAWN = ["touch_draw", "touch_soak", "touch_soak_charger", "touch_place"];

interface Props {
  job: Job;
  step: Step;
  picked: boolean;
  standing: string | undefined;
  onAnswer: (outcome: string) => void;
  onSkip: () => void;
  onBack: () => void;
  onPhotos: () => void;
  onTouch: () => void;
}

function useAnswerKeys({ step, job, onAnswer, onSkip, onBack, picked }: Props) {
  // a finding that is open on the panel map has keys of its own
  const free = () => document.querySelector("section[aria-label=Finding]") === null;
  const when = (act: () => void) => () => {
    if (free()) act();
  };
  const answers = step.answers.map((one) => [
    one.key,
    when(() => {
      onAnswer(one.id);
    }),
  ]);
  useKeys(
    job.closed_at
      ? {}
      : {
          ...(step.aside && { [SKIP_KEY]: when(onSkip) }),
          ...(picked && { Escape: when(onBack) }),
          ...(Object.fromEntries(answers) as Record<string, () => void>),
        },
  );
}

export function NextCard(props: Props) {
  const { job, step, picked, standing, onAnswer, onSkip, onBack, onPhotos, onTouch } = props;
  useAnswerKeys(props);
  const { stop } = job.diagnosis;
  const closed = Boolean(job.closed_at);
  return (
    <Box
      component="section"
      aria-label="Next step"
      sx={{ border: 2, borderColor: "primary.main", borderRadius: 1, p: 1.5, mb: 1.5 }}
    >
      <Typography variant="body2" color="textSecondary">
        {picked ? "Picked by you" : step.repair ? "Next: a repair" : "Next check"}, about {step.minutes} min
        {step.needs && step.needs !== "nothing" ? `; needs ${step.needs}` : ""}
      </Typography>
      <Typography variant="h1" component="h2" sx={{ my: 0.5, overflowWrap: "anywhere" }}>
        {step.title}
      </Typography>
      {step.repair && (
        <Typography variant="body2" sx={{ mb: 1 }}>
          {stop.advised ? stop.reason : ""}
        </Typography>
      )}
      {step.how.length > 0 && (
        <Box component="ol" sx={{ m: 0, mb: 1, pl: 2.5 }}>
          {step.how.map((line) => (
            <Typography component="li" key={line}>
              {line}
            </Typography>
          ))}
        </Box>
      )}
      {step.cautions.map((line) => (
        <Alert key={line} severity="warning" variant="outlined" sx={{ mb: 1 }}>
          {line} Local rules and licensed practice come first.
        </Alert>
      ))}
      {step.check === EDID && <EdidChooser job={job} onDone={onBack} />}
      {step.check === LUMINANCE && <MeterEntry job={job} onDone={onBack} />}
      {PHOTOGRAPHED.includes(step.check) && (
        <Button variant="contained" disabled={closed} onClick={onPhotos} sx={{ mb: 1 }}>
          Photograph it at Inspect
        </Button>
      )}
      {DRAWN.includes(step.check) && (
        <Button variant="contained" disabled={closed} onClick={onTouch} sx={{ mb: 1 }}>
          Record the touch at Inspect
        </Button>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(150px, 1fr))", gap: 0.75 }}>
        {step.answers.map((one) => (
          <Button
            key={one.id}
            disabled={closed}
            variant={standing === one.id ? "contained" : "outlined"}
            aria-pressed={standing === one.id}
            onClick={() => {
              onAnswer(one.id);
            }}
            sx={{ justifyContent: "space-between", textAlign: "left", lineHeight: 1.25 }}
          >
            {one.title}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>{one.key.toUpperCase()}</Key>
            </Box>
          </Button>
        ))}
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
        {step.aside && (
          <Button size="small" disabled={closed} onClick={onSkip}>
            {step.repair ? "Not now" : "Not possible, or not now"}{" "}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>X</Key>
            </Box>
          </Button>
        )}
        {picked && (
          <Button size="small" onClick={onBack}>
            Back to the plan{" "}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>Esc</Key>
            </Box>
          </Button>
        )}
      </Box>
    </Box>
  );
}
