import { Box, Button, ButtonBase, Typography } from "@mui/material";
import { factsOf, markOf, wordOf } from "../../pane/marks";
import { capital } from "../words";
import type { Finding, Verdict } from "../api/client";

interface Props {
  findings: readonly Finding[];
  order: readonly number[];
  /** By kind what is one line until it is asked for. */
  folded?: ReadonlyMap<string, readonly number[]>;
  onUnfold?: (kind: string) => void;
  selected: number | null;
  onSelect: (index: number | null) => void;
  fresh?: ReadonlySet<number>;
}

export function MarkSymbol({ kind }: { kind: string }) {
  const mark = markOf(kind);
  return (
    <Box
      component="svg"
      viewBox="-24 -24 48 48"
      aria-hidden
      sx={{ width: 26, height: 26, flex: "none", bgcolor: "#4a4a4a", borderRadius: 0.5 }}
    >
      <path
        d={mark.path}
        fill={mark.filled ? "#000" : "none"}
        stroke="#fff"
        strokeWidth="3"
        strokeDasharray={mark.dashed ? "5 4" : undefined}
      />
    </Box>
  );
}

/** Indices in the order of what matters to the verdict: what makes it fail, then the panel's own, then what is not of the panel and what
 * was rejected; the surest first. */
export function sorted(findings: readonly Finding[], verdict: Verdict | undefined): number[] {
  const failing = new Set<string>(verdict?.criteria.filter((one) => one.result === "fail").flatMap((one) => one.kinds));
  const rank = (f: Finding) =>
    f.decision?.verdict === "rejected"
      ? 3
      : factsOf(f.kind).family === "whole"
        ? -1
        : !factsOf(f.kind).of_panel
          ? 2
          : failing.has(f.kind)
            ? 0
            : 1;
  return findings
    .map((f, index) => ({ index, rank: rank(f), confidence: f.confidence }))
    .sort((a, b) => a.rank - b.rank || b.confidence - a.confidence)
    .map((one) => one.index);
}

export function FindingList({ findings, order, folded, onUnfold, selected, onSelect, fresh }: Props) {
  if (findings.length === 0) return null;
  return (
    <Box component="ul" aria-label="Findings" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
      {order.map((index) => {
        const f = findings[index] as Finding;
        return (
          <Box component="li" key={index} sx={{ borderTop: 1, borderColor: "divider" }}>
            <ButtonBase
              onClick={() => {
                onSelect(selected === index ? null : index);
              }}
              aria-pressed={selected === index}
              sx={{
                width: "100%",
                justifyContent: "flex-start",
                textAlign: "left",
                gap: 1.5,
                py: 0.75,
                px: 0.5,
                minHeight: 44,
                bgcolor: selected === index ? "background.paper" : "transparent",
              }}
            >
              <MarkSymbol kind={f.kind} />
              <Box sx={{ minWidth: 0, flex: 1 }}>
                <Typography
                  component="span"
                  sx={{ fontWeight: 600, textDecoration: f.decision?.verdict === "rejected" ? "line-through" : "none" }}
                >
                  {capital(wordOf(f.kind))}
                  {f.channel ? `, ${f.channel}` : ""}
                  {fresh?.has(index) ? " (new since the dry fit)" : ""}
                </Typography>
                {f.decision && (
                  <Typography component="span" variant="body2" color="warning">
                    {" "}
                    {f.decision.verdict === "accepted" ? "confirmed" : f.decision.verdict} by {f.decision.by}
                  </Typography>
                )}
                <Typography
                  component="span"
                  variant="body2"
                  color="textSecondary"
                  sx={{ display: "block", overflowWrap: "anywhere" }}
                >
                  {f.reasons.join(" ")}
                </Typography>
              </Box>
              <Typography component="span" variant="body2" sx={{ whiteSpace: "nowrap", textAlign: "right" }}>
                {Math.round(f.x)}, {Math.round(f.y)} px
                <br />
                {Math.round(f.confidence * 100)} % sure
              </Typography>
            </ButtonBase>
          </Box>
        );
      })}
      {[...(folded ?? [])].map(([kind, indices]) => (
        <Box
          component="li"
          key={kind}
          sx={{ borderTop: 1, borderColor: "divider", display: "flex", alignItems: "center", gap: 1.5, px: 0.5 }}
        >
          <MarkSymbol kind={kind} />
          <Typography component="span" sx={{ flex: 1, py: 0.75 }}>
            <strong>
              {capital(wordOf(kind))} ({indices.length})
            </strong>
            <Typography component="span" variant="body2" color="textSecondary" sx={{ display: "block" }}>
              {kind === "camera"
                ? "Dots of the camera itself. They do not count."
                : "On the glass: wipe it and shoot again. It does not count."}
            </Typography>
          </Typography>
          <Button size="small" onClick={() => onUnfold?.(kind)}>
            List each
          </Button>
        </Box>
      ))}
    </Box>
  );
}
