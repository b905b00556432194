// What is proven of the screen at a stage: its picture by photos, its touch by drawing. The address says which of the two is shown.

import { Box, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useSearchParams } from "react-router";
import type { Job, Stage } from "../api/client";
import { useKeys } from "../keys/useKeys";
import { TouchBench } from "../touch/TouchBench";
import { Key } from "./notes";
import { PhotoBench } from "./PhotoBench";
import { StageConditions } from "./StageConditions";

export type Part = "picture" | "touch" | "functions";
const PARTS: readonly string[] = ["picture", "touch", "functions"];

export function usePart(): [Part, (part: Part) => void] {
  const [params, setParams] = useSearchParams();
  const asked = params.get("part") ?? "";
  const part = (PARTS.includes(asked) ? asked : "picture") as Part;
  return [
    part,
    (to) => {
      setParams(to === "picture" ? {} : { part: to }, { replace: true });
    },
  ];
}

/** `words` say how the picture is taken at this stage; `functions` is what else is tested at it, where something is. */
export function StageBench({
  job,
  stage,
  words,
  functions,
}: {
  job: Job;
  stage: Stage;
  words?: string;
  functions?: React.ReactNode;
}) {
  const [asked, setPart] = usePart();
  const part = asked === "functions" && !functions ? "picture" : asked;
  const run = job.runs.find((one) => one.stage === stage);
  const shown: Part[] = ["picture", "touch", ...(functions ? (["functions"] as const) : [])];
  useKeys({
    t: () => {
      setPart(shown[(shown.indexOf(part) + 1) % shown.length] ?? "picture");
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
          {functions && <ToggleButton value="functions">Functions</ToggleButton>}
        </ToggleButtonGroup>
        <Key>T</Key>
      </Box>
      {run && part !== "functions" && <StageConditions job={job} run={run} />}
      {part === "functions" ? (
        functions
      ) : part === "touch" ? (
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
