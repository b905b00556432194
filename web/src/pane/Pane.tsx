// The pane: one scaled drawing of the panel in its true proportions, with everything that was found on it.

import { useId } from "react";
import { cellBox, drawnBox, drawnHeight, DRAWN_WIDTH, grown, type PanelSize, type Spot } from "./geometry";
import { areaOf, isExtended, markOf, wordOf } from "./marks";

export interface PaneFinding extends Spot {
  kind: string;
  channel?: string | null;
  confidence: number;
  contrast?: number;
  decision?: { verdict: string } | null;
}
interface Props {
  panel: PanelSize;
  findings: readonly PaneFinding[];
  unproven?: readonly (readonly [number, number, number])[];
  selected?: number | null;
  onSelect?: (index: number) => void;
  /** Indices of what is listed and not drawn. */
  unmarked?: ReadonlySet<number>;
  /** Indices that stand out: what is new in a comparison. */
  fresh?: ReadonlySet<number>;
  label: string;
  empty?: string;
  /** A part of the panel that is to be photographed: centre and size, panel pixels. */
  frame?: Spot | null;
  /** Drawn over the panel and under the marks: the light field. */
  layer?: React.ReactNode;
  maxHeight?: string;
}

function Extent({
  kind,
  bright,
  ...box
}: {
  kind: string;
  bright: boolean;
  x: number;
  y: number;
  width: number;
  height: number;
}) {
  const area = areaOf(kind, bright);
  return (
    <rect
      {...box}
      fill={area.fill}
      fillOpacity={area.opacity}
      stroke="#fff"
      strokeWidth={area.dash ? 2.4 : 1.5}
      strokeDasharray={area.dash ?? undefined}
    />
  );
}

/** From this size in drawing units the box of a thing that has a mark of its own is drawn too. */
const OUTLINED = 44;

/** Corners of a viewfinder around a part of the panel. */
function Frame({ box }: { box: { x: number; y: number; width: number; height: number } }) {
  const [right, bottom] = [box.x + box.width, box.y + box.height];
  const arm = Math.min(60, box.width / 4, box.height / 4);
  const d = [
    [box.x, box.y, 1, 1],
    [right, box.y, -1, 1],
    [right, bottom, -1, -1],
    [box.x, bottom, 1, -1],
  ]
    .map(([x = 0, y = 0, h = 1, v = 1]) => `M${x + h * arm} ${y}H${x}V${y + v * arm}`)
    .join("");
  return <path data-frame d={d} fill="none" stroke="#fff" strokeWidth="5" />;
}

export function Pane({
  panel,
  findings,
  unproven = [],
  selected = null,
  onSelect,
  unmarked,
  fresh,
  label,
  empty,
  layer,
  frame,
  maxHeight = "60vh",
}: Props) {
  const hatch = useId();
  const height = drawnHeight(panel);
  const grow = grown(panel);
  return (
    <svg
      viewBox={`-8 -8 ${DRAWN_WIDTH + 16} ${height + 16}`}
      role="group"
      aria-label={label}
      style={{ display: "block", width: "100%", maxHeight, aspectRatio: `${DRAWN_WIDTH + 16} / ${height + 16}` }}
    >
      <defs>
        <pattern id={hatch} width="10" height="10" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V10" stroke="#6f6f6f" strokeWidth="3" />
        </pattern>
      </defs>
      <rect x="0" y="0" width={DRAWN_WIDTH} height={height} fill="#4a4a4a" stroke="#8b8b8b" strokeWidth="2" />
      {unproven.map(
        ([column, row, share]) =>
          share < 0.9 && (
            <rect
              key={`${column}.${row}`}
              {...cellBox(panel, column, row)}
              fill={`url(#${hatch})`}
              opacity={1 - share}
            />
          ),
      )}
      {layer}
      {findings.map((finding, index) => {
        if (unmarked?.has(index)) return null;
        const box = drawnBox(panel, finding);
        const mark = markOf(finding.kind);
        const chosen = selected === index;
        const rejected = finding.decision?.verdict === "rejected";
        const words = `${wordOf(finding.kind)}${finding.channel ? `, ${finding.channel}` : ""} at ${Math.round(finding.x)}, ${Math.round(finding.y)}${rejected ? ", rejected" : ""}`;
        return (
          <g
            key={index}
            onClick={() => onSelect?.(index)}
            style={{ cursor: onSelect ? "pointer" : "default" }}
            data-kind={finding.kind}
            opacity={rejected ? 0.35 : 1}
          >
            <title>{words}</title>
            {isExtended(finding.kind) ? (
              <Extent
                kind={finding.kind}
                bright={(finding.contrast ?? -1) > 0}
                x={box.x}
                y={box.y}
                width={box.width}
                height={box.height}
              />
            ) : (
              <>
                {Math.max(box.width, box.height) > OUTLINED * grow && (
                  <rect
                    x={box.x}
                    y={box.y}
                    width={box.width}
                    height={box.height}
                    fill="none"
                    stroke="#fff"
                    strokeWidth={1.5 * grow}
                    strokeDasharray="3 8"
                  />
                )}
                <g transform={`translate(${box.cx} ${box.cy}) scale(${grow})`}>
                  <circle r="22" fill="transparent" />
                  <path
                    d={mark.path}
                    fill={mark.filled ? "#000" : "none"}
                    stroke="#fff"
                    strokeWidth="2.4"
                    strokeDasharray={mark.dashed ? "5 4" : undefined}
                  />
                </g>
              </>
            )}
            {fresh?.has(index) && (
              <circle
                cx={box.cx}
                cy={box.cy}
                r={30 * grow}
                fill="none"
                stroke="#fff"
                strokeWidth={3 * grow}
                strokeDasharray="2 5"
              />
            )}
            {chosen && (
              <path
                transform={`translate(${box.cx} ${box.cy}) scale(${grow})`}
                d="M-36 0h22M14 0h22M0 -36v22M0 14v22"
                stroke="#fff"
                strokeWidth="3"
              />
            )}
          </g>
        );
      })}
      {frame && <Frame box={drawnBox(panel, frame)} />}
      {empty && (
        <text
          x={DRAWN_WIDTH / 2}
          y={height / 2}
          textAnchor="middle"
          fontSize={Math.min(30 * grow, height / 14)}
          fill="#e6e6e6"
        >
          {empty}
        </text>
      )}
    </svg>
  );
}
