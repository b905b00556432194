// The cheapest photos that would prove the rest, with the part to show drawn on the pane.

import { Box, Button, Typography } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { client, got, type NextShot } from "../api/client";
import { ErrorNote } from "./notes";

interface Props {
  shots: readonly NextShot[];
  runId: number;
  framed: NextShot | null;
  onFrame: (shot: NextShot | null) => void;
}

export function NextShots({ shots, runId, framed, onFrame }: Props) {
  const show = useMutation({
    mutationFn: (pattern: string) =>
      got(client.POST("/api/runs/{run_id}/pattern", { params: { path: { run_id: runId } }, body: { pattern } })),
  });
  if (shots.length === 0) return null;
  return (
    <Box
      component="section"
      aria-label="Next photos"
      sx={{ mt: 1, p: 1.5, border: 1, borderColor: "divider", borderRadius: 1 }}
    >
      <Typography variant="h2">Photos worth taking</Typography>
      <Box component="ol" sx={{ m: 0, mt: 0.5, pl: 2.5 }}>
        {shots.map((shot) => (
          <Box
            component="li"
            key={`${shot.pattern}${shot.from_side ? "-side" : ""}${shot.later ? "-later" : ""}`}
            sx={{ py: 0.25 }}
          >
            <Typography component="span">{shot.text}</Typography>{" "}
            {shot.share > 0 && (
              <Typography component="span" variant="body2" color="textSecondary">
                Up to {(100 * shot.share).toFixed(1)} % of the panel.
              </Typography>
            )}
            <Box sx={{ display: "flex", gap: 1 }}>
              <Button
                size="small"
                onClick={() => {
                  show.mutate(shot.pattern);
                }}
              >
                Show {shot.pattern}
              </Button>
              {shot.frame && (
                <Button
                  size="small"
                  aria-pressed={framed?.pattern === shot.pattern}
                  onClick={() => {
                    onFrame(framed?.pattern === shot.pattern ? null : shot);
                  }}
                >
                  {framed?.pattern === shot.pattern ? "Hide the frame" : "Frame it on the pane"}
                </Button>
              )}
            </Box>
          </Box>
        ))}
      </Box>
      <ErrorNote error={show.error} />
    </Box>
  );
}
