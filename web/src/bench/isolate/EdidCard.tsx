// What the panel says of itself: read from a file, compared with the record.

import { Alert, Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { client, type Job } from "../api/client";
import { sendToJob } from "../api/files";
import { applyAnswer } from "../api/facets";
import { useJobChange } from "../api/job";
import { ErrorNote } from "../parts/notes";

type Which = "edid" | "edid/replacement";

function EdidButtons({ job, which, label, onDone }: { job: Job; which: Which; label: string; onDone: () => void }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const simulate = useJobChange<null>(job.id, () =>
    client.POST(`/api/jobs/{job_id}/simulate/${which}`, { params: { path: { job_id: job.id } } }),
  );
  const send = useMutation({
    mutationFn: (file: File) => sendToJob(job.id, which, file),
    onSuccess: (told) => {
      applyAnswer(queries, job.id, told);
      onDone();
    },
  });
  return (
    <>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="EDID file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) send.mutate(file);
          event.target.value = "";
        }}
      />
      <Button
        variant={which === "edid" ? "contained" : "outlined"}
        disabled={Boolean(job.closed_at) || send.isPending}
        onClick={() => chooser.current?.click()}
      >
        {label}
      </Button>
      {job.can_simulate && (
        <Button
          disabled={Boolean(job.closed_at)}
          onClick={() => {
            simulate.mutate(null, { onSuccess: onDone });
          }}
        >
          Simulated panel: read it
        </Button>
      )}
      <ErrorNote error={send.error ?? simulate.error} />
    </>
  );
}

export function EdidChooser({ job, onDone }: { job: Job; onDone: () => void }) {
  return (
    <Box sx={{ mb: 1 }}>
      <EdidButtons job={job} which="edid" label="Choose the EDID file" onDone={onDone} />
      <Typography variant="body2" color="textSecondary">
        Binary or hex text. Or answer by hand:
      </Typography>
    </Box>
  );
}

/** At Fit: what the panel that is to be fitted says of itself, before anything is glued. */
export function ReplacementEdid({ job }: { job: Job }) {
  return (
    <Box
      component="section"
      aria-label="EDID of the replacement"
      sx={{ borderTop: 1, borderColor: "divider", py: 1.25 }}
    >
      <Typography variant="h2">EDID of the replacement</Typography>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
        Read it at the dry fit:{" "}
        {job.edid?.decoded.checksum_ok
          ? "it is held to the EDID of the panel before it."
          : "no sound EDID of the panel before it was read, so it is compared with the panel on record."}
      </Typography>
      <EdidButtons job={job} which="edid/replacement" label="Choose its EDID file" onDone={() => undefined} />
      {job.replacement_edid && <EdidTable told={job.replacement_edid} alike />}
    </Box>
  );
}

export function EdidCard({ job }: { job: Job }) {
  if (!job.edid) return null;
  return (
    <Box component="section" aria-label="EDID" sx={{ mt: 2 }}>
      <Typography variant="h2">EDID {job.edid.decoded.version}</Typography>
      <EdidTable told={job.edid} />
    </Box>
  );
}

/** `alike`: say so where nothing differs. */
function EdidTable({
  told: { decoded, differences },
  alike = false,
}: {
  told: NonNullable<Job["edid"]>;
  alike?: boolean;
}) {
  const rows: [string, string][] = [
    [
      "Maker and product",
      `${decoded.manufacturer_id} ${decoded.product_code}${decoded.names.length ? ` (${decoded.names.join(", ")})` : ""}`,
    ],
    ["Made", decoded.year ? `${decoded.week ? `week ${decoded.week} of ` : ""}${decoded.year}` : "not told"],
    [
      "Resolution",
      decoded.preferred
        ? `${decoded.preferred.width} x ${decoded.preferred.height}, ${decoded.preferred.refresh_hz.toFixed(1)} Hz`
        : "not told",
    ],
    [
      "Size",
      decoded.size_mm
        ? `${decoded.size_mm[0]} x ${decoded.size_mm[1]} mm, ${(decoded.size_in ?? 0).toFixed(1)} in`
        : "not told",
    ],
    [
      "Signal",
      [decoded.interface, decoded.bits_per_colour ? `${decoded.bits_per_colour} bits a colour` : null]
        .filter(Boolean)
        .join(", ") || "not told",
    ],
  ];
  return (
    <Box sx={{ mt: 1 }}>
      {alike && differences.length === 0 && <Typography sx={{ mb: 0.5 }}>Nothing that matters differs.</Typography>}
      {[...(decoded.problems ?? []), ...differences].map((line) => (
        <Alert key={line} severity="warning" variant="outlined" sx={{ my: 0.5 }}>
          {line}
        </Alert>
      ))}
      <Box component="dl" sx={{ m: 0, display: "grid", gridTemplateColumns: "auto 1fr", columnGap: 2 }}>
        {rows.map(([name, text]) => [
          <Typography key={`${name}-t`} component="dt" variant="body2" color="textSecondary">
            {name}
          </Typography>,
          <Typography key={name} component="dd" variant="body2" sx={{ m: 0, overflowWrap: "anywhere" }}>
            {text}
          </Typography>,
        ])}
      </Box>
    </Box>
  );
}
