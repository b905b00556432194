import { Box, ButtonBase, Typography } from "@mui/material";
import { markOf } from "../../pane/marks";
import type { Finding } from "../api/client";

interface Props { findings: readonly Finding[]; selected: number | null; onSelect: (index: number | null) => void; fresh?: ReadonlySet<number> }

export function MarkSymbol({ kind }: { kind: string }) {
  const mark = markOf(kind);
  return (
    <Box component="svg" viewBox="-24 -24 48 48" aria-hidden sx={{ width: 26, height: 26, flex: "none", bgcolor: "#4a4a4a", borderRadius: 0.5 }}>
      <path d={mark.path} fill={mark.filled ? "#000" : "none"} stroke="#fff" strokeWidth="3" strokeDasharray={mark.dashed ? "5 4" : undefined} />
    </Box>
  );
}

/** Findings in the order of what matters: the panel's own first, the surest first. */
export function FindingList({ findings, selected, onSelect, fresh }: Props) {
  if (findings.length === 0) return null;
  const notPanel = new Set(["dust", "film", "scratch", "reflection", "camera"]);
  const order = findings.map((_, index) => index).sort((a, b) => {
    const fa = findings[a] as Finding;
    const fb = findings[b] as Finding;
    return Number(notPanel.has(fa.kind)) - Number(notPanel.has(fb.kind)) || fb.confidence - fa.confidence;
  });
  return (
    <Box component="ul" aria-label="Findings" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
      {order.map((index) => {
        const f = findings[index] as Finding;
        return (
          <Box component="li" key={index} sx={{ borderTop: 1, borderColor: "divider" }}>
            <ButtonBase onClick={() => { onSelect(selected === index ? null : index); }} aria-pressed={selected === index}
              sx={{ width: "100%", justifyContent: "flex-start", textAlign: "left", gap: 1.5, py: 0.75, px: 0.5, minHeight: 44, bgcolor: selected === index ? "background.paper" : "transparent" }}>
              <MarkSymbol kind={f.kind} />
              <Box sx={{ minWidth: 0, flex: 1 }}>
                <Typography component="span" sx={{ fontWeight: 600 }}>{markOf(f.kind).word}{f.channel ? `, ${f.channel}` : ""}{fresh?.has(index) ? " (new since the dry fit)" : ""}</Typography>
                <Typography component="span" variant="body2" color="textSecondary" sx={{ display: "block", overflowWrap: "anywhere" }}>{f.reasons.join(" ")}</Typography>
              </Box>
              <Typography component="span" variant="body2" sx={{ whiteSpace: "nowrap", textAlign: "right" }}>{Math.round(f.x)}, {Math.round(f.y)} px<br />{Math.round(f.confidence * 100)} % sure</Typography>
            </ButtonBase>
          </Box>
        );
      })}
    </Box>
  );
}
