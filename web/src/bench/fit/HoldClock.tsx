// A button that is held for so long: counted on the screen, and sounded, so that nobody looks away.

import { Box, Button, LinearProgress, Typography } from "@mui/material";
import { useEffect, useState } from "react";
import { ring } from "./ring";

const TICK_MS = 200;

export function HoldClock({ seconds, held, onHeld }: { seconds: number; held: number; onHeld: (s: number) => void }) {
  const [since, setSince] = useState<number | null>(null);
  const [now, setNow] = useState(0);
  const passed = since === null ? 0 : (now - since) / 1000;
  const done = held >= seconds;
  useEffect(() => {
    if (since === null) return;
    const timer = setInterval(() => {
      const passedNow = performance.now();
      setNow(passedNow);
      if (passedNow - since < seconds * 1000) return;
      setSince(null);
      onHeld(seconds);
      ring();
    }, TICK_MS);
    return () => {
      clearInterval(timer);
    };
  }, [since, seconds, onHeld]);
  return (
    <Box sx={{ my: 1 }} role="status">
      {done ? (
        <Typography>Held for {seconds} s.</Typography>
      ) : since === null ? (
        <Button
          variant="outlined"
          onClick={() => {
            setNow(performance.now());
            setSince(performance.now());
          }}
        >
          Hold it: start {seconds} s
        </Button>
      ) : (
        <>
          <Typography sx={{ fontSize: "1.6rem", fontWeight: 600 }}>{Math.ceil(seconds - passed)} s</Typography>
          <LinearProgress variant="determinate" value={(100 * passed) / seconds} aria-label="Held so far" />
        </>
      )}
    </Box>
  );
}
