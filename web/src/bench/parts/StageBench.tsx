// What is proven of the screen at a stage: its picture by photos, its touch by drawing. The address says which of the two is shown.

import { Box, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useSearchParams } from "react-router";
import type { Job, Stage } from "../api/client";
import { useKeys } from "../keys/useKeys";
import { TouchBench } from "../touch/TouchBench";
import { Key } from "./notes";
import { PhotoBench } from "./PhotoBench";

export type Part = "picture" | "touch";

export function usePart(): [Part, (part: Part) => void] {
  const [params, setParams] = useSearchParams();
  const part: Part = params.get("part") === "touch" ? "touch" : "picture";
  return [
    part,
    (to) => {
      setParams(to === "touch" ? { part: "touch" } : {}, { replace: true });
    },
  ];
}

/** `words` say how the picture is taken at this stage. */
export function StageBench({ job, stage, words }: { job: Job; stage: Stage; words?: string }) {
  const [part, setPart] = usePart();
  useKeys({
    t: () => {
      setPart(part === "touch" ? "picture" : "touch");
    },
  });
  return (
    <Box>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", mb: 1.5 }}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={part}
          aria-label="What is proven"
          onChange={(_, value: Part | null) => {
            if (value) setPart(value);
          }}
        >
          <ToggleButton value="picture">Picture</ToggleButton>
          <ToggleButton value="touch">Touch</ToggleButton>
        </ToggleButtonGroup>
        <Key>T</Key>
      </Box>
      {part === "touch" ? (
        <TouchBench job={job} stage={stage} />
      ) : (
        <>
          {words && <Typography sx={{ mb: 1.5 }}>{words}</Typography>}
          <PhotoBench job={job} stage={stage} />
        </>
      )}
    </Box>
  );
}
