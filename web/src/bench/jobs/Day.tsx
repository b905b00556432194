// The rest of the day as one pair of hands would do it: due first, and other jobs in the time in which one waits by itself.

import { Box, Link as MuiLink, ToggleButton, ToggleButtonGroup, Typography } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, got } from "../api/client";
import { useClockTime } from "../api/hooks";
import type { components } from "../api/schema";
import { Empty, ErrorNote } from "../parts/notes";

type DayPlan = components["schemas"]["DayOut"];
const lowered = (words: string): string => words.charAt(0).toLowerCase() + words.slice(1);
const ASKED_EVERY_MS = 60_000;

export function Day() {
  const [whose, setWhose] = useState<"mine" | "all">("mine");
  const clock = useClockTime();
  const day = useQuery({
    queryKey: ["jobs", "day", whose],
    queryFn: () => got<DayPlan>(client.GET("/api/day", { params: { query: { whose } } })),
    refetchInterval: ASKED_EVERY_MS,
  });
  const plan = day.data;
  return (
    <Box component="section" aria-label="The rest of the day" sx={{ px: 2, mb: 3 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2, alignItems: "center", pb: 0.5 }}>
        <Typography variant="h2">The rest of the day</Typography>
        <ToggleButtonGroup
          exclusive
          size="small"
          aria-label="Whose jobs"
          value={whose}
          onChange={(_, value: "mine" | "all" | null) => {
            if (value) setWhose(value);
          }}
        >
          <ToggleButton value="mine">Mine</ToggleButton>
          <ToggleButton value="all">All</ToggleButton>
        </ToggleButtonGroup>
      </Box>
      <ErrorNote error={day.error} onRetry={() => void day.refetch()} />
      {plan && plan.slots.length === 0 && (
        <Empty>
          {whose === "mine"
            ? "Nothing of yours can be worked on in the shop's hours that are left today."
            : "Nothing can be worked on in the shop's hours that are left today."}
        </Empty>
      )}
      {plan && plan.slots.length > 0 && (
        <Box component="ol" sx={{ listStyle: "none", p: 0, m: 0, maxWidth: 900 }}>
          {plan.slots.map((slot) => (
            <Box
              component="li"
              key={`${slot.job_id} ${slot.begins}`}
              sx={{
                display: "grid",
                gridTemplateColumns: { xs: "1fr", sm: "190px 1fr" },
                columnGap: 2,
                py: 0.75,
                borderTop: 1,
                borderColor: "divider",
              }}
            >
              <Typography color="textSecondary">
                {clock(slot.begins)} to {clock(slot.ends)}
              </Typography>
              <Typography sx={{ overflowWrap: "anywhere" }}>
                <MuiLink component={Link} to={`/jobs/${slot.job_id}`} color="textPrimary" sx={{ fontWeight: 600 }}>
                  {slot.title}
                </MuiLink>
                : {lowered(slot.piece)}
                {slot.until ? `; then it waits until ${clock(slot.until)}` : ""}
                {slot.whole ? "" : "; the shop closes before it is done"}
              </Typography>
            </Box>
          ))}
        </Box>
      )}
      {plan && plan.late.length > 0 && (
        <Typography color="warning" sx={{ mt: 0.5 }}>
          Due, and not to be done today: {plan.late.join("; ")}. Tell the owners, or give the jobs to somebody else.
        </Typography>
      )}
      {plan && plan.left_out > 0 && (
        <Typography variant="body2" color="textSecondary">
          {plan.left_out} more jobs are not planned.
        </Typography>
      )}
      {plan && plan.slots.length > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: 0.5 }}>
          By the minutes of each procedure and the clocks that run; what waits for somebody else is left out.
        </Typography>
      )}
    </Box>
  );
}
