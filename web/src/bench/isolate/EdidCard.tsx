// What the panel says of itself: read from a file, compared with the record.

import { Alert, Box, Button, Typography } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { client, type Job } from "../api/client";
import { sendToJob, useJobChange } from "../api/hooks";
import { ErrorNote } from "../parts/notes";

export function EdidChooser({ job, onDone }: { job: Job; onDone: () => void }) {
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const simulate = useJobChange<null>(job.id, () => client.POST("/api/jobs/{job_id}/simulate/edid", { params: { path: { job_id: job.id } } }));
  const send = useMutation({
    mutationFn: (file: File) => sendToJob(job.id, "edid", file),
    onSuccess: (told) => { queries.setQueryData(["job", job.id], told); onDone(); },
  });
  return (
    <Box sx={{ mb: 1 }}>
      <input ref={chooser} type="file" hidden aria-label="EDID file" onChange={(event) => { const file = event.target.files?.[0]; if (file) send.mutate(file); event.target.value = ""; }} />
      <Button variant="contained" disabled={Boolean(job.closed_at) || send.isPending} onClick={() => chooser.current?.click()}>Choose the EDID file</Button>
      {job.can_simulate && <Button disabled={Boolean(job.closed_at)} onClick={() => { simulate.mutate(null, { onSuccess: onDone }); }}>Simulated panel: read it</Button>}
      <Typography variant="body2" color="textSecondary">Binary or hex text. Or answer by hand:</Typography>
      <ErrorNote error={send.error ?? simulate.error} />
    </Box>
  );
}

export function EdidCard({ job }: { job: Job }) {
  if (!job.edid) return null;
  const { decoded, differences } = job.edid;
  const rows: [string, string][] = [
    ["Maker and product", `${decoded.manufacturer_id} ${decoded.product_code}${decoded.names.length ? ` (${decoded.names.join(", ")})` : ""}`],
    ["Made", decoded.year ? `${decoded.week ? `week ${decoded.week} of ` : ""}${decoded.year}` : "not told"],
    ["Resolution", decoded.preferred ? `${decoded.preferred.width} x ${decoded.preferred.height}, ${decoded.preferred.refresh_hz.toFixed(1)} Hz` : "not told"],
    ["Size", decoded.size_mm ? `${decoded.size_mm[0]} x ${decoded.size_mm[1]} mm, ${(decoded.size_in ?? 0).toFixed(1)} in` : "not told"],
    ["Signal", [decoded.interface, decoded.bits_per_colour ? `${decoded.bits_per_colour} bits a colour` : null].filter(Boolean).join(", ") || "not told"],
  ];
  return (
    <Box component="section" aria-label="EDID" sx={{ mt: 2 }}>
      <Typography variant="h2">EDID {decoded.version}</Typography>
      {[...decoded.problems ?? [], ...differences].map((line) => <Alert key={line} severity="warning" variant="outlined" sx={{ my: 0.5 }}>{line}</Alert>)}
      <Box component="dl" sx={{ m: 0, display: "grid", gridTemplateColumns: "auto 1fr", columnGap: 2 }}>
        {rows.map(([name, text]) => [<Typography key={`${name}-t`} component="dt" variant="body2" color="textSecondary">{name}</Typography>, <Typography key={name} component="dd" variant="body2" sx={{ m: 0, overflowWrap: "anywhere" }}>{text}</Typography>])}
      </Box>
    </Box>
  );
}
