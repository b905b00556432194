// The one verdict of the job: its parts with how each is known, what is missing, what must be told with it, the one next thing.

import { Box, Typography } from "@mui/material";
import { ofVerdict, StateMark, VERDICT_WORDS } from "../../theme/StateMark";
import type { Job } from "../api/client";
import { useWhen } from "../api/hooks";

const GRADES: Record<string, string> = { measured: "measured", seen: "seen", told: "told" };

export function WholeVerdict({ job }: { job: Job }) {
  const when = useWhen();
  const { verdict } = job;
  const texts = verdict.parts.map((part) => part.text);
  const missing = verdict.missing.filter((words) => !texts.some((text) => text.includes(words)));
  return (
    <Box
      component="section"
      aria-label="Verdict of the job"
      sx={{ border: 1, borderColor: "divider", borderRadius: 1, p: 1.5, mb: 1.5 }}
    >
      <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
        <StateMark state={ofVerdict(verdict.result)} size={28} />
        <Typography variant="h1" component="p">
          {VERDICT_WORDS[verdict.result]}
        </Typography>
      </Box>
      {verdict.next && <Typography sx={{ mt: 0.5 }}>Next: {verdict.next}</Typography>}
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
        {verdict.parts.map((part) => (
          <Box component="li" key={part.part} sx={{ display: "flex", gap: 1, py: 0.4 }}>
            <StateMark state={ofVerdict(part.result)} size={16} />
            <Typography variant="body2" sx={{ flex: 1 }}>
              {part.text}{" "}
              <Box component="span" sx={{ color: "text.secondary" }}>
                {GRADES[part.grade]}
                {part.at ? `, ${when(part.at)}` : ""}
              </Box>
            </Typography>
          </Box>
        ))}
        {missing.map((words) => (
          <Box component="li" key={words} sx={{ display: "flex", gap: 1, py: 0.4 }}>
            <StateMark state="open" size={16} />
            <Typography variant="body2">{words}</Typography>
          </Box>
        ))}
      </Box>
      {verdict.conditions.length > 0 && (
        <Box sx={{ mt: 1 }}>
          <Typography variant="body2" color="textSecondary">
            To be told with it
          </Typography>
          {verdict.conditions.map((words) => (
            <Typography key={words} variant="body2">
              {words}
            </Typography>
          ))}
        </Box>
      )}
    </Box>
  );
}
