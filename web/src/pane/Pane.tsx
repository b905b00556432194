// The pane: one scaled drawing of the panel in its true proportions, with everything that was found on it.

import { useId } from "react";
import { cellBox, drawnBox, drawnHeight, DRAWN_WIDTH, type PanelSize, type Spot } from "./geometry";
import { isExtended, markOf } from "./marks";

export interface PaneFinding extends Spot { kind: string; channel?: string | null; confidence: number }
interface Props {
  panel: PanelSize;
  findings: readonly PaneFinding[];
  unproven?: readonly (readonly [number, number, number])[];
  selected?: number | null;
  onSelect?: (index: number) => void;
  /** Indices that stand out: what is new in a comparison. */
  fresh?: ReadonlySet<number>;
  label: string;
  empty?: string;
  maxHeight?: string;
}

export function Pane({ panel, findings, unproven = [], selected = null, onSelect, fresh, label, empty, maxHeight = "60vh" }: Props) {
  const hatch = useId();
  const height = drawnHeight(panel);
  return (
    <svg viewBox={`-8 -8 ${DRAWN_WIDTH + 16} ${height + 16}`} role="group" aria-label={label}
      style={{ display: "block", width: "100%", maxHeight, aspectRatio: `${DRAWN_WIDTH + 16} / ${height + 16}` }}>
      <defs>
        <pattern id={hatch} width="10" height="10" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V10" stroke="#6f6f6f" strokeWidth="3" />
        </pattern>
      </defs>
      <rect x="0" y="0" width={DRAWN_WIDTH} height={height} fill="#4a4a4a" stroke="#8b8b8b" strokeWidth="2" />
      {unproven.map(([column, row, share]) => share < 0.9 && (
        <rect key={`${column}.${row}`} {...cellBox(panel, column, row)} fill={`url(#${hatch})`} opacity={1 - share} />
      ))}
      {findings.map((finding, index) => {
        const box = drawnBox(panel, finding);
        const mark = markOf(finding.kind);
        const chosen = selected === index;
        const words = `${mark.word}${finding.channel ? `, ${finding.channel}` : ""} at ${Math.round(finding.x)}, ${Math.round(finding.y)}`;
        return (
          <g key={index} onClick={() => onSelect?.(index)} style={{ cursor: onSelect ? "pointer" : "default" }} data-kind={finding.kind}>
            <title>{words}</title>
            {isExtended(finding.kind)
              ? <rect x={box.x} y={box.y} width={box.width} height={box.height} fill="#000" fillOpacity="0.75" stroke="#fff" strokeWidth="1.5" />
              : (
                <g transform={`translate(${box.cx} ${box.cy})`}>
                  <circle r="22" fill="transparent" />
                  <path d={mark.path} fill={mark.filled ? "#000" : "none"} stroke="#fff" strokeWidth="2.4" strokeDasharray={mark.dashed ? "5 4" : undefined} />
                </g>
              )}
            {fresh?.has(index) && <circle cx={box.cx} cy={box.cy} r="30" fill="none" stroke="#fff" strokeWidth="3" strokeDasharray="2 5" />}
            {chosen && <path d={`M${box.cx - 36} ${box.cy}h22M${box.cx + 14} ${box.cy}h22M${box.cx} ${box.cy - 36}v22M${box.cx} ${box.cy + 14}v22`} stroke="#fff" strokeWidth="3" />}
          </g>
        );
      })}
      {empty && (
        <text x={DRAWN_WIDTH / 2} y={height / 2} textAnchor="middle" fontSize={Math.min(30, height / 14)} fill="#e6e6e6">{empty}</text>
      )}
    </svg>
  );
}
