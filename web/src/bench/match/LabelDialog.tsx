// A photo of the panel's label: codes and print are read, the crop stands beside the reading, one key confirms.

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import type { LabelRead } from "../api/client";
import { useReading } from "../api/reading";
import { OnePhoto } from "../parts/OnePhoto";
import { ErrorNote, Waiting } from "../parts/notes";

type Candidate = LabelRead["reading"]["candidates"][number];

function whereIs(told: LabelRead, candidate: Candidate): string {
  const panel = told.known[candidate.part_number];
  if (!panel) return "Not in the register yet.";
  return panel.name === candidate.part_number ? "In the register." : `In the register as ${panel.name}.`;
}

/** The part of the photo around the line or code that a candidate was read from. */
function Crop({ url, read, candidate }: { url: string; read: LabelRead; candidate: Candidate | undefined }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const plain = (text: string) => text.toUpperCase().replace(/[^A-Z0-9]/g, "");
    const part = candidate ? plain(candidate.part_number).slice(0, 5) : "";
    const line =
      read.reading.lines.find((one) => part && plain(one.text).includes(part)) ?? read.reading.lines[0] ?? null;
    const code = read.reading.codes[0];
    const xs = code?.corners.map((corner) => corner[0]) ?? [];
    const ys = code?.corners.map((corner) => corner[1]) ?? [];
    const box =
      candidate?.reason.includes("code") && !candidate.reason.startsWith("Printed") && code
        ? [Math.min(...xs), Math.min(...ys), Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)]
        : line?.box;
    const image = new Image();
    image.onload = () => {
      const target = canvas.current;
      const pen = target?.getContext("2d");
      if (!target || !pen) return;
      const [x = 0, y = 0, w = image.width, h = image.height] = box ?? [];
      const margin = Math.max(20, 0.6 * Math.min(w, h));
      const scale = Math.min(520 / (w + 2 * margin), 220 / (h + 2 * margin));
      target.width = (w + 2 * margin) * scale;
      target.height = (h + 2 * margin) * scale;
      pen.drawImage(image, x - margin, y - margin, w + 2 * margin, h + 2 * margin, 0, 0, target.width, target.height);
    };
    image.src = url;
  }, [url, read, candidate]);
  return <canvas ref={canvas} aria-label="The part of the photo that was read" style={{ maxWidth: "100%" }} />;
}

export function LabelDialog({
  jobId,
  onKnown,
  onNew,
  onClose,
}: {
  jobId: number;
  onKnown: (panelId: number) => void;
  onNew: (partNumber: string) => void;
  onClose: () => void;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const [url, setUrl] = useState("");
  useEffect(
    () => () => {
      if (url) URL.revokeObjectURL(url);
    },
    [url],
  );
  const read = useReading("label");
  const told = read.reading?.label;
  const candidates = told?.reading.candidates ?? [];
  const take = (candidate: Candidate) => {
    const panel = told?.known[candidate.part_number];
    if (panel) onKnown(panel.id);
    else onNew(candidate.part_number);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>Read the label</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 1 }}>
          One photo of the panel&apos;s own label, all of it, sharp and without glare. Any way up. The photo is not
          kept.
        </Typography>
        <OnePhoto
          ref={chooser}
          label="Photo of the label"
          onFile={(file) => {
            setUrl(URL.createObjectURL(file));
            read.send(file, { job_id: String(jobId) });
          }}
        />
        <Button
          variant={told ? "outlined" : "contained"}
          autoFocus={!told}
          disabled={read.busy}
          onClick={() => chooser.current?.click()}
        >
          {told ? "Another photo" : "Take or choose the photo"}
        </Button>
        {read.busy && <Waiting words="Reading the label, a few seconds" />}
        <ErrorNote error={read.error} />
        {told && (
          <Box role="status" sx={{ mt: 1.5, display: "grid", gap: 1 }}>
            <Crop url={url} read={told} candidate={candidates[0]} />
            {told.reading.problems.map((problem) => (
              <Typography key={problem.code} variant="body2" color="warning">
                {problem.message}
              </Typography>
            ))}
            {candidates.map((candidate, index) => (
              <Box key={candidate.part_number} sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
                <Button
                  autoFocus={index === 0}
                  variant={index === 0 && told.reading.accepted ? "contained" : "outlined"}
                  onClick={() => {
                    take(candidate);
                  }}
                >
                  {candidate.part_number}
                </Button>
                <Typography variant="body2" color="textSecondary">
                  {[candidate.reason, ...(told.beside[candidate.part_number] ?? [])].join(" ")}{" "}
                  {whereIs(told, candidate)}
                </Typography>
              </Box>
            ))}
            {candidates.length > 1 && !told.reading.accepted && (
              <Typography variant="body2">More than one is possible: compare with the photo.</Typography>
            )}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
