import { Box, Button, Menu, MenuItem, Typography } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router";
import { client, type Photo, type Run } from "../api/client";
import { useVocabulary } from "../api/hooks";
import { useJobChange } from "../api/job";
import { CornersDialog } from "./CornersDialog";
import { Confirm } from "./Confirm";
import { Empty, ErrorNote } from "./notes";
import { FLAT, OTHERWISE_FILED, REFERENCE } from "./filed";

// refusals that four corners can help; a file that cannot be decoded has no corners
const CORNERS_HELP = ["no_markers", "too_dark", "pattern_unread", "pattern_needed", "corners", "trail_corners"];

/** The reference panel was shown this set's patterns, another inspection's, or exported ones. */
function mayShowReference(photo: Photo): boolean {
  if (photo.removed || OTHERWISE_FILED.includes(photo.pattern_given)) return false;
  return (
    /^(white|grey50)/.test(photo.report?.pattern ?? "") ||
    (photo.report?.problems.some((one) => one.code === "wrong_run") ?? false)
  );
}
type Residual = NonNullable<NonNullable<Photo["report"]>["residuals"]>[number];
const WORDS: Record<string, string> = {
  queued: "waiting",
  reading: "being read",
  read: "read",
  refused: "cannot be used",
  kept: "kept",
};

/** Where on the panel the registration fits a marker worst, and by how much; nothing where no marker strays by more than its edges do. */
export function worstMarker(residuals: Residual[], panel: { width: number; height: number }, usualPx: number): string {
  const worst = residuals.reduce<Residual | null>(
    (most, one) => (most && Math.hypot(most.dx, most.dy) >= Math.hypot(one.dx, one.dy) ? most : one),
    null,
  );
  if (!worst || Math.hypot(worst.dx, worst.dy) <= usualPx) return "";
  const down = worst.y < panel.height / 3 ? "top" : worst.y > (2 * panel.height) / 3 ? "bottom" : "";
  const across = worst.x < panel.width / 3 ? "left" : worst.x > (2 * panel.width) / 3 ? "right" : "";
  return ` (worst marker ${Math.hypot(worst.dx, worst.dy).toFixed(2)} px, ${`${down} ${across}`.trim() || "middle"})`;
}

function Figures({ photo, run }: { photo: Photo; run: Run }) {
  const report = photo.report;
  if (!report?.px_per_px) return null;
  const parts = [
    `${report.px_per_px.toFixed(2)} camera px per panel px`,
    report.blur_px === null ? "" : `blur ${report.blur_px.toFixed(1)} px`,
    report.residual_px === null
      ? ""
      : `registered to ${report.residual_px.toFixed(2)} px${run.result ? worstMarker(report.residuals ?? [], run.result.panel, report.residual_px) : ""}`,
  ];
  return (
    <Typography variant="body2" color="textSecondary">
      {parts.filter(Boolean).join(", ")}
    </Typography>
  );
}

/** A lit area without readable markers is registered by its outline as soon as somebody says what it shows. */
function ShownPattern({ onChoose }: { onChoose: (pattern: string) => void }) {
  const vocabulary = useVocabulary();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const lit = (vocabulary.data?.patterns ?? []).filter((one) => one.outlined);
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
      >
        Say what it shows
      </Button>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => {
          setAnchor(null);
        }}
      >
        {lit.map((one) => (
          <MenuItem
            key={one.id}
            onClick={() => {
              setAnchor(null);
              onChoose(one.id);
            }}
          >
            {one.title}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

export function PhotoList({ run, closed }: { run: Run; closed: boolean }) {
  const [corners, setCorners] = useState<Photo | null>(null);
  const [leaving, setLeaving] = useState<Photo | null>(null);
  const remove = useJobChange<{ id: number; removed: boolean }>(run.job_id, ({ id, removed }) =>
    client.PATCH("/api/photos/{photo_id}", { params: { path: { photo_id: id } }, body: { removed } }),
  );
  const file = useJobChange<{ id: number; pattern: string }>(run.job_id, ({ id, pattern }) =>
    client.PATCH("/api/photos/{photo_id}", { params: { path: { photo_id: id } }, body: { pattern } }),
  );
  if (run.photos.length === 0)
    return (
      <Box sx={{ mt: 1.5 }}>
        <Empty>
          No photo yet. Show a pattern on the device and photograph it: the photos sort themselves by their markers.
        </Empty>
      </Box>
    );
  return (
    <>
      {leaving && (
        <Confirm
          title="Take this photo out?"
          text={`${leaving.name} counts no more, and the set is measured again without it. It stays in the record and can be put back.`}
          action="Take it out"
          onConfirm={() => {
            remove.mutate({ id: leaving.id, removed: true });
          }}
          onClose={() => {
            setLeaving(null);
          }}
        />
      )}
      <Box component="ul" aria-label="Photos" sx={{ listStyle: "none", m: 0, mt: 1, p: 0 }}>
        {run.photos.map((photo) => (
          <Box
            component="li"
            key={photo.id}
            sx={{
              display: "flex",
              gap: 1.5,
              py: 1,
              borderTop: 1,
              borderColor: "divider",
              opacity: photo.removed ? 0.65 : 1,
            }}
          >
            <Box
              component="img"
              loading="lazy"
              alt=""
              onError={(event) => {
                event.currentTarget.style.visibility = "hidden";
              }}
              src={`/api/photos/${photo.id}/image?size=thumb`}
              sx={{ width: 84, height: 63, objectFit: "cover", bgcolor: "#333", borderRadius: 0.5, flex: "none" }}
            />
            <Box sx={{ minWidth: 0, flex: 1 }}>
              <Typography component="h3" sx={{ fontWeight: 600, overflowWrap: "anywhere" }}>
                {photo.report?.pattern ?? photo.name}:{" "}
                {photo.removed ? "taken out" : (WORDS[photo.status] ?? photo.status)}
              </Typography>
              <Figures photo={photo} run={run} />
              {photo.report?.problems.map((one) => (
                <Typography key={one.code} variant="body2" color="warning">
                  {one.message}
                </Typography>
              ))}
              {photo.report?.map && !photo.removed && (
                <Button size="small" component={Link} to={`/jobs/${run.job_id}/photos/${photo.id}`}>
                  Look closely
                </Button>
              )}
              {!closed && (
                <Box sx={{ display: "flex", flexWrap: "wrap" }}>
                  <Button
                    size="small"
                    onClick={() => {
                      if (photo.removed) remove.mutate({ id: photo.id, removed: false });
                      else setLeaving(photo);
                    }}
                  >
                    {photo.removed ? "Put back" : "Take out"}
                  </Button>
                  {photo.status === "refused" &&
                    !photo.removed &&
                    photo.report?.problems.some((one) => CORNERS_HELP.includes(one.code)) && (
                      <Button
                        size="small"
                        onClick={() => {
                          setCorners(photo);
                        }}
                      >
                        Give the corners
                      </Button>
                    )}
                  {photo.status === "refused" &&
                    !photo.removed &&
                    photo.report?.problems.some((one) => one.code === "pattern_needed") && (
                      <ShownPattern
                        onChoose={(pattern) => {
                          file.mutate({ id: photo.id, pattern });
                        }}
                      />
                    )}
                  {photo.status === "refused" &&
                    !photo.removed &&
                    photo.report?.problems.some((one) => one.code === "no_markers") && (
                      <Button
                        size="small"
                        onClick={() => {
                          file.mutate({ id: photo.id, pattern: FLAT });
                        }}
                      >
                        It is a flat-field shot
                      </Button>
                    )}
                  {mayShowReference(photo) && (
                    <Button
                      size="small"
                      onClick={() => {
                        file.mutate({ id: photo.id, pattern: REFERENCE });
                      }}
                    >
                      It is the reference panel
                    </Button>
                  )}
                  {OTHERWISE_FILED.includes(photo.pattern_given) && !photo.removed && (
                    <Button
                      size="small"
                      onClick={() => {
                        file.mutate({ id: photo.id, pattern: "" });
                      }}
                    >
                      It shows this panel
                    </Button>
                  )}
                </Box>
              )}
            </Box>
          </Box>
        ))}
        <ErrorNote error={remove.error ?? file.error} />
        {corners && (
          <CornersDialog
            photo={corners}
            run={run}
            onClose={() => {
              setCorners(null);
            }}
          />
        )}
      </Box>
    </>
  );
}
