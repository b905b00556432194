// What cures, dries or is clamped anywhere in the shop; what has rung stays until somebody has seen it.

import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router";
import { leftWords } from "./notes";
import { useClocks } from "./useClocks";

const MOST_SHOWN = 3;

export function ClockBar() {
  const clocks = useClocks();
  const [seen, setSeen] = useState<ReadonlySet<string>>(new Set());
  const shown = clocks.filter((one) => !seen.has(`${one.job_id} ${one.clock.step} ${one.clock.began}`));
  if (shown.length === 0) return null;
  return (
    <Box
      role="status"
      aria-label="Clocks"
      sx={{ display: "flex", flexWrap: "wrap", columnGap: 3, px: 2, borderBottom: 1, borderColor: "divider" }}
    >
      {shown.slice(0, MOST_SHOWN).map((one) => {
        const key = `${one.job_id} ${one.clock.step} ${one.clock.began}`;
        const over = one.leftS === 0;
        return (
          <Box key={key} sx={{ display: "flex", gap: 1, alignItems: "center", minHeight: 40 }}>
            <Typography
              variant="body2"
              sx={{ fontWeight: over ? 600 : 400 }}
              color={over ? "warning" : "textSecondary"}
            >
              <Box component={Link} to={`/jobs/${one.job_id}/fit`} sx={{ color: "inherit" }}>
                {one.title}
              </Box>
              : {one.clock.title.toLowerCase()}, {over ? "time is over" : `${leftWords(one.leftS)} left`}
            </Typography>
            {over && (
              <Button
                size="small"
                onClick={() => {
                  setSeen(new Set([...seen, key]));
                }}
              >
                Seen
              </Button>
            )}
          </Box>
        );
      })}
      {shown.length > MOST_SHOWN && (
        <Typography variant="body2" color="textSecondary" sx={{ alignSelf: "center" }}>
          and {shown.length - MOST_SHOWN} more
        </Typography>
      )}
    </Box>
  );
}
