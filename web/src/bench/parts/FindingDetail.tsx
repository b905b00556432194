// One finding looked at closely: the photos' own view of it in every pattern, and what a person decides.

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
import { Link } from "react-router";
import { ALL_KINDS, factsOf, wordOf } from "../../pane/marks";
import { client, type Finding, type Photo, type Run } from "../api/client";
import { useJobChange } from "../api/job";
import { useKeys } from "../keys/useKeys";
import { capital } from "../words";
import { ErrorNote, Key } from "./notes";
import { RowTime } from "./RowTime";

const CHOICES = ALL_KINDS.filter((kind) => factsOf(kind).correctable);
const DECIDED: Record<string, string> = { accepted: "Confirmed", rejected: "Rejected", corrected: "Corrected" };
interface Decision {
  verdict: "accepted" | "rejected" | "corrected" | "undo";
  reason: string;
  becomes?: Finding["kind"];
  becomes_channel?: Finding["channel"];
}

/** What concerns the whole picture is seen in the whole photo. */
function WholePhoto({ photo, finding }: { photo: Photo; finding: Finding }) {
  const name = photo.report?.pattern ?? photo.name;
  return (
    <Box component="figure" sx={{ m: 0, minWidth: 0 }}>
      <Box
        component="img"
        loading="lazy"
        alt={`${name}: the whole photo`}
        src={`/api/photos/${photo.id}/image?size=thumb`}
        sx={{ display: "block", width: "100%", borderRadius: 0.5, bgcolor: "#808080" }}
      />
      <Typography component="figcaption" variant="body2" color="textSecondary">
        {name}
        {finding.patterns.includes(name) ? ", shows it" : ""}
      </Typography>
    </Box>
  );
}

function Closeup({ photo, finding }: { photo: Photo; finding: Finding }) {
  const [failed, setFailed] = useState(false);
  // of a long line its middle is enough, of a zone all of it
  const size = finding.orientation
    ? Math.max(12, Math.min(finding.w, finding.h)) * 3
    : Math.max(finding.w, finding.h) * 0.75;
  const reach = Math.min(400, Math.max(9, size));
  const name = photo.report?.pattern ?? photo.name;
  if (failed) return null;
  return (
    <Box component="figure" sx={{ m: 0, minWidth: 0 }}>
      <Box
        component="img"
        loading="lazy"
        onError={() => {
          setFailed(true);
        }}
        alt={`${name}: the place on the left, its neighbourhood on the right`}
        src={`/api/photos/${photo.id}/closeup?x=${finding.x}&y=${finding.y}&reach_px=${reach.toFixed(0)}`}
        sx={{ display: "block", width: "100%", borderRadius: 0.5, bgcolor: "#808080" }}
      />
      <Typography component="figcaption" variant="body2" color="textSecondary">
        {name}
        {finding.patterns.includes(name) ? ", shows it" : ""}
      </Typography>
    </Box>
  );
}

function DecisionDialog({
  finding,
  verdict,
  onClose,
  onDecide,
}: {
  finding: Finding;
  verdict: "rejected" | "corrected";
  onClose: () => void;
  onDecide: (decision: Decision) => void;
}) {
  const [reason, setReason] = useState("");
  const [kind, setKind] = useState<Finding["kind"]>(finding.kind);
  const [channel, setChannel] = useState<string>(finding.channel ?? "");
  const single = kind.endsWith("subpixel");
  const ready = verdict === "rejected" || (reason.trim() !== "" && (!single || channel !== ""));
  const send = () => {
    onDecide({
      verdict,
      reason,
      ...(verdict === "corrected" && {
        becomes: kind,
        becomes_channel: single ? (channel as Finding["channel"]) : null,
      }),
    });
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <Box
        component="form"
        onSubmit={(event: { preventDefault: () => void }) => {
          event.preventDefault();
          if (ready) send();
        }}
      >
        <DialogTitle>{verdict === "rejected" ? "Reject this finding" : "Correct this finding"}</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <Typography variant="body2" color="textSecondary">
            The measurement stays in the record; the verdict follows your decision and says so.
          </Typography>
          {verdict === "corrected" && (
            <>
              <TextField
                select
                label="It is a"
                value={kind}
                onChange={(event) => {
                  setKind(event.target.value as Finding["kind"]);
                }}
              >
                {CHOICES.map((one) => (
                  <MenuItem key={one} value={one}>
                    {wordOf(one)}
                  </MenuItem>
                ))}
              </TextField>
              {single && (
                <TextField
                  select
                  label="Colour"
                  value={channel}
                  onChange={(event) => {
                    setChannel(event.target.value);
                  }}
                >
                  {["red", "green", "blue"].map((one) => (
                    <MenuItem key={one} value={one}>
                      {one}
                    </MenuItem>
                  ))}
                </TextField>
              )}
            </>
          )}
          <TextField
            autoFocus
            label={verdict === "corrected" ? "What you saw (needed)" : "Why, for whoever reads it later"}
            value={reason}
            onChange={(event) => {
              setReason(event.target.value);
            }}
            slotProps={{ htmlInput: { maxLength: 300 } }}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" variant="contained" disabled={!ready}>
            {verdict === "rejected" ? "Reject" : "Correct"}
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

/** CSS px a panel pixel: a finding takes a fifth of the window and is not blown up beyond its neighbours. */
const zoomFor = (finding: Finding): number => Number(Math.min(14, 160 / Math.max(finding.w, finding.h)).toFixed(2));

export function FindingDetail({
  finding,
  run,
  panel,
  closed,
  canSimulate,
}: {
  finding: Finding;
  run: Run;
  panel: { width: number; height: number };
  closed: boolean;
  canSimulate: boolean;
}) {
  const [asked, setAsked] = useState<"rejected" | "corrected" | null>(null);
  const change = useJobChange<Decision>(run.job_id, (decision) =>
    client.POST("/api/runs/{run_id}/decisions", {
      params: { path: { run_id: run.id } },
      body: {
        kind: finding.kind,
        channel: finding.channel,
        x: finding.x,
        y: finding.y,
        becomes: null,
        becomes_channel: null,
        ...decision,
      },
    }),
  );
  const { mutate } = change;
  const told = finding.decision;
  const decidable = !closed && finding.kind !== "cluster";
  useKeys(
    decidable
      ? {
          a: () => {
            mutate({ verdict: "accepted", reason: "" });
          },
          r: () => {
            setAsked("rejected");
          },
          c: () => {
            setAsked("corrected");
          },
          u: told
            ? () => {
                mutate({ verdict: "undo", reason: "" });
              }
            : undefined,
        }
      : {},
  );
  const section = useRef<HTMLElement>(null);
  useEffect(() => {
    section.current?.scrollIntoView({ block: "nearest" });
  }, []);
  const photos = run.photos.filter((photo) => !photo.removed && photo.report?.map);
  const whole = finding.w >= panel.width && finding.h >= panel.height;
  const closest = photos.find((photo) => finding.patterns.includes(photo.report?.pattern ?? "")) ?? photos[0];
  return (
    <Box
      component="section"
      ref={section}
      aria-label="Finding"
      sx={{ mt: 1.5, p: 1.5, border: 1, borderColor: "divider", borderRadius: 1, bgcolor: "background.paper" }}
    >
      <Typography variant="h2">
        {capital(wordOf(finding.kind))}
        {finding.channel ? `, ${finding.channel}` : ""} at {Math.round(finding.x)}, {Math.round(finding.y)}
      </Typography>
      <Typography variant="body2" sx={{ my: 0.5 }}>
        {finding.reasons.join(" ")}
      </Typography>
      {(finding.alternatives ?? []).length > 0 && (
        <Typography variant="body2" color="textSecondary">
          May also be{" "}
          {(finding.alternatives ?? [])
            .map((other) => `${wordOf(other.kind)} (${String(Math.round(100 * other.p))} %)`)
            .join(" or ")}
          .
        </Typography>
      )}
      {finding.kind === "flicker" && !closed && <RowTime run={run} canSimulate={canSimulate} />}
      {told && (
        <Typography variant="body2" color="warning">
          {DECIDED[told.verdict]} by {told.by}
          {told.verdict === "corrected" ? `; the photos said ${wordOf(told.measured_kind)}` : ""}
          {told.reason ? `: ${told.reason}` : "."}
        </Typography>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(190px, 1fr))", gap: 1, my: 1 }}>
        {photos.map((photo) =>
          whole ? (
            <WholePhoto key={photo.id} photo={photo} finding={finding} />
          ) : (
            <Closeup key={photo.id} photo={photo} finding={finding} />
          ),
        )}
      </Box>
      {photos.length > 0 && !whole && (
        <Typography variant="body2" color="textSecondary">
          Left: this place. Right: its neighbourhood. Both cut from the photo, contrast stretched alike.
        </Typography>
      )}
      {closest && (
        <Button
          size="small"
          component={Link}
          to={`/jobs/${run.job_id}/photos/${closest.id}${whole ? "" : `?at=${finding.x},${finding.y},${zoomFor(finding)}`}`}
        >
          Look closely, and measure
        </Button>
      )}
      {decidable && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          <Button
            variant="outlined"
            onClick={() => {
              mutate({ verdict: "accepted", reason: "" });
            }}
          >
            Confirm{" "}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>A</Key>
            </Box>
          </Button>
          <Button
            variant="outlined"
            onClick={() => {
              setAsked("rejected");
            }}
          >
            Reject{" "}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>R</Key>
            </Box>
          </Button>
          <Button
            variant="outlined"
            onClick={() => {
              setAsked("corrected");
            }}
          >
            Correct{" "}
            <Box component="span" sx={{ ml: 1 }}>
              <Key>C</Key>
            </Box>
          </Button>
          {told && (
            <Button
              onClick={() => {
                mutate({ verdict: "undo", reason: "" });
              }}
            >
              Take the decision back{" "}
              <Box component="span" sx={{ ml: 1 }}>
                <Key>U</Key>
              </Box>
            </Button>
          )}
        </Box>
      )}
      <ErrorNote error={change.error} />
      {asked && (
        <DecisionDialog
          finding={finding}
          verdict={asked}
          onClose={() => {
            setAsked(null);
          }}
          onDecide={(decision) => {
            setAsked(null);
            mutate(decision);
          }}
        />
      )}
    </Box>
  );
}
