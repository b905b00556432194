import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  TextField,
  Typography,
} from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { client, type Photo, type Run } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { useJobChange } from "../api/job";
import { TRAIL } from "./filed";
import { ErrorNote, Waiting } from "./notes";

type Point = [number, number];
const NAMES = ["top left", "top right", "bottom right", "bottom left"];

/** Where the markers cannot be read: the person drags the four corners of the lit area and says which pattern it is. */
export function CornersDialog({ photo, run, onClose }: { photo: Photo; run: Run; onClose: () => void }) {
  const vocabulary = useVocabulary();
  const [size, setSize] = useState<{ width: number; height: number; url: string } | null>(null);
  const [failed, setFailed] = useState<unknown>(null);
  const [corners, setCorners] = useState<Point[]>(
    photo.corners_given ? photo.corners_given.map((point) => [point[0] ?? 0, point[1] ?? 0]) : [],
  );
  const [pattern, setPattern] = useState(photo.pattern_given || photo.report?.pattern || run.pattern);
  const drawing = useRef<SVGSVGElement>(null);
  const held = useRef<number | null>(null);
  useEffect(() => {
    let url = "";
    fetch(`/api/photos/${photo.id}/image?size=view`)
      .then(async (answer) => {
        if (!answer.ok) throw new Error("The photo did not load. Close and try again.");
        const width = Number(answer.headers.get("X-Photo-Width"));
        const height = Number(answer.headers.get("X-Photo-Height"));
        url = URL.createObjectURL(await answer.blob());
        setSize({ width, height, url });
        const inner: Point[] = [
          [0.15, 0.15],
          [0.85, 0.15],
          [0.85, 0.85],
          [0.15, 0.85],
        ];
        setCorners((now) => (now.length === 4 ? now : inner.map(([u, v]) => [u * width, v * height])));
      })
      .catch(setFailed);
    return () => {
      if (url) URL.revokeObjectURL(url);
    };
  }, [photo.id]);
  const save = useJobChange<null>(run.job_id, () =>
    client.PATCH("/api/photos/{photo_id}", { params: { path: { photo_id: photo.id } }, body: { pattern, corners } }),
  );
  const move = (index: number, x: number, y: number) => {
    if (!size) return;
    setCorners((now) =>
      now.map((point, i) =>
        i === index
          ? [Math.max(-0.5, Math.min(size.width - 0.5, x)), Math.max(-0.5, Math.min(size.height - 0.5, y))]
          : point,
      ),
    );
  };
  const drag = (event: React.PointerEvent) => {
    if (held.current === null || !drawing.current || !size) return;
    const box = drawing.current.getBoundingClientRect();
    move(
      held.current,
      ((event.clientX - box.left) / box.width) * size.width,
      ((event.clientY - box.top) / box.height) * size.height,
    );
  };
  const nudge = (index: number) => (event: React.KeyboardEvent) => {
    const by = event.shiftKey ? 20 : 1;
    const way = (
      { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] } as Record<string, Point>
    )[event.key];
    const point = corners[index];
    if (!way || !point) return;
    event.preventDefault();
    event.stopPropagation();
    move(index, point[0] + way[0], point[1] + way[1]);
  };
  const radius = size ? Math.max(size.width, size.height) / 55 : 1;
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="corners-title">
      <DialogTitle id="corners-title">Corners of the lit area</DialogTitle>
      <DialogContent>
        <Typography sx={{ mb: 1 }}>
          Drag the four handles to the outer corners of the panel, number 1 to the panel's own top left. Arrow keys move
          by one pixel, with Shift by twenty.
        </Typography>
        {photo.pattern_given !== TRAIL && (
          <TextField
            select
            label="Pattern in this photo"
            value={pattern}
            onChange={(e) => {
              setPattern(e.target.value);
            }}
            sx={{ mb: 1, maxWidth: 260 }}
          >
            {(vocabulary.data?.patterns ?? []).map((one) => (
              <MenuItem key={one.id} value={one.id}>
                {one.title}
              </MenuItem>
            ))}
          </TextField>
        )}
        <ErrorNote error={failed ?? save.error} />
        {!size && !failed && <Waiting words="Loading the photo" />}
        {size && (
          <Box
            component="svg"
            ref={drawing}
            viewBox={`0 0 ${size.width} ${size.height}`}
            onPointerMove={drag}
            onPointerUp={() => {
              held.current = null;
            }}
            onPointerLeave={() => {
              held.current = null;
            }}
            sx={{ display: "block", width: "100%", maxHeight: "60vh", touchAction: "none" }}
          >
            <image href={size.url} width={size.width} height={size.height} />
            <polygon
              points={corners.map((point) => point.join(",")).join(" ")}
              fill="none"
              stroke="#fff"
              strokeWidth={radius / 5}
              strokeDasharray={`${radius / 2} ${radius / 3}`}
            />
            {corners.map(([x, y], index) => (
              <g
                key={index}
                tabIndex={0}
                role="slider"
                aria-label={`Corner ${NAMES[index]}`}
                aria-valuetext={`${Math.round(x)}, ${Math.round(y)}`}
                aria-valuenow={Math.round(x)}
                style={{ cursor: "grab" }}
                onKeyDown={nudge(index)}
                onPointerDown={(event) => {
                  held.current = index;
                  event.currentTarget.ownerSVGElement?.setPointerCapture(event.pointerId);
                }}
              >
                <circle
                  cx={x}
                  cy={y}
                  r={radius * 1.6}
                  fill="#000"
                  fillOpacity="0.25"
                  stroke="#fff"
                  strokeWidth={radius / 5}
                />
                <text x={x} y={y + radius / 2.6} fontSize={radius * 1.3} fill="#fff" textAnchor="middle">
                  {index + 1}
                </text>
              </g>
            ))}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Leave it</Button>
        <Button
          variant="contained"
          disabled={!size || save.isPending}
          onClick={() => {
            save.mutate(null, { onSuccess: onClose });
          }}
        >
          Read the photo with these corners
        </Button>
      </DialogActions>
    </Dialog>
  );
}
