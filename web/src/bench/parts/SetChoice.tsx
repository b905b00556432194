// Which patterns are shot: the sets that ship, or an own one from a YAML file.

import { Box, Button, Typography } from "@mui/material";
import { useRef } from "react";
import type { Run } from "../api/client";
import { useVocabulary } from "../api/hooks";

export function SetChoice({
  run,
  onChoose,
}: {
  run: Run;
  onChoose: (chosen: { pattern_set?: string; own_yaml?: string }) => void;
}) {
  const vocabulary = useVocabulary();
  const file = useRef<HTMLInputElement>(null);
  const sets = Object.entries(vocabulary.data?.pattern_sets ?? {});
  const about = run.pattern_set
    ? vocabulary.data?.pattern_sets[run.pattern_set]?.about
    : `Own set, ${run.patterns.length} patterns.`;
  return (
    <Box role="group" aria-label="Pattern set" sx={{ mt: 1 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, alignItems: "center" }}>
        <Typography variant="body2" color="textSecondary">
          Set:
        </Typography>
        {sets.map(([name, one]) => (
          <Button
            key={name}
            size="small"
            variant={run.pattern_set === name ? "outlined" : "text"}
            aria-pressed={run.pattern_set === name}
            onClick={() => {
              onChoose({ pattern_set: name });
            }}
          >
            {one.title}
          </Button>
        ))}
        <Button size="small" variant={run.pattern_set ? "text" : "outlined"} onClick={() => file.current?.click()}>
          {run.pattern_set ? "Own set" : run.set_title}
        </Button>
        <input
          ref={file}
          type="file"
          hidden
          aria-label="Own pattern set"
          accept=".yaml,.yml,text/yaml"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen)
              void chosen.text().then((text) => {
                onChoose({ own_yaml: text || " " });
              });
          }}
        />
      </Box>
      <Typography variant="body2" color="textSecondary">
        {about}
        {run.pattern_set ? "" : " Choose a YAML file to change it."}
      </Typography>
    </Box>
  );
}
