// Ranked causes; the bars move as evidence comes in.

import { Box, Button, Typography } from "@mui/material";
import { useState } from "react";
import type { Job } from "../api/client";

const SHOWN = 5,
  EXPLAINED = 3,
  NEGLIGIBLE = 0.005;
type Cause = Job["diagnosis"]["causes"][number];

function Bar({ share }: { share: number }) {
  return (
    <Box aria-hidden sx={{ height: 6, bgcolor: "action.hover", borderRadius: 0.5, my: 0.5 }}>
      <Box
        sx={{
          height: "100%",
          width: `${100 * share}%`,
          bgcolor: "primary.main",
          borderRadius: 0.5,
          transition: "width 300ms ease",
          "@media (prefers-reduced-motion: reduce)": { transition: "none" },
        }}
      />
    </Box>
  );
}

function Reasons({ words, list }: { words: string; list: readonly string[] }) {
  return (
    <>
      {list.map((line) => (
        <Typography key={line} variant="body2" color="textSecondary" sx={{ overflowWrap: "anywhere" }}>
          {words}: {line}
        </Typography>
      ))}
    </>
  );
}

function Row({ cause, explained }: { cause: Cause; explained: boolean }) {
  const [open, setOpen] = useState(false);
  const reasons = cause.for_.length + cause.against.length;
  return (
    <Box component="li" sx={{ py: 0.75, borderTop: 1, borderColor: "divider" }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", gap: 1 }}>
        <Typography sx={{ fontWeight: 600 }}>{cause.title}</Typography>
        <Typography sx={{ fontVariantNumeric: "tabular-nums" }}>{Math.min(99, Math.round(100 * cause.p))} %</Typography>
      </Box>
      <Bar share={cause.p} />
      {(explained || open) && (
        <>
          <Reasons words="For it" list={cause.for_} />
          <Reasons words="Against it" list={cause.against} />
        </>
      )}
      {!explained && reasons > 0 && (
        <Button
          size="small"
          aria-expanded={open}
          onClick={() => {
            setOpen(!open);
          }}
        >
          {open ? "Hide the reasons" : `${reasons} ${reasons > 1 ? "reasons" : "reason"}`}
        </Button>
      )}
    </Box>
  );
}

/** `beside`: under the pane on a wide screen, so that the order moves in view of the card; below the card on a narrow one. */
export function Causes({ job, beside = false }: { job: Job; beside?: boolean }) {
  const [all, setAll] = useState(false);
  const causes = job.diagnosis.causes.filter((one) => all || one.p >= NEGLIGIBLE);
  const shown = all ? causes : causes.slice(0, SHOWN);
  return (
    <Box
      component="section"
      aria-label="Likely causes"
      sx={{ mt: 2, display: beside ? { xs: "none", md: "block" } : { md: "none" } }}
    >
      <Typography variant="h2">Likely causes</Typography>
      <Typography variant="body2" color="textSecondary">
        A device can have two at once. In brackets: how strongly an answer speaks for it or against it.
      </Typography>
      <Box component="ol" sx={{ listStyle: "none", m: 0, mt: 0.5, p: 0 }}>
        {shown.map((cause, n) => (
          <Row key={cause.id} cause={cause} explained={n < EXPLAINED} />
        ))}
      </Box>
      <Button
        size="small"
        onClick={() => {
          setAll(!all);
        }}
      >
        {all ? "Show fewer" : `Show all ${job.diagnosis.causes.length}`}
      </Button>
      {(job.diagnosis.would_change ?? []).length > 0 && (
        <Box sx={{ mt: 1 }}>
          <Typography variant="h3">What would change this</Typography>
          {(job.diagnosis.would_change ?? []).map((line) => (
            <Typography key={line} variant="body2" color="textSecondary">
              {line}
            </Typography>
          ))}
        </Box>
      )}
    </Box>
  );
}
