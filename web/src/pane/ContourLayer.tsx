// A measured field over the pane: contour lines with their levels, and figures at single points.

import { contour, levels, type Grid, type Segment } from "./contours";
import { drawnHeight, DRAWN_WIDTH, grown, scale, type PanelSize } from "./geometry";

export interface PlatePoint {
  x: number;
  y: number;
  level: number;
}
interface Props {
  panel: PanelSize;
  grid: Grid;
  steps: readonly number[];
  /** The level that is drawn stronger. */
  strong?: number;
  figure: (level: number) => string;
  points?: readonly PlatePoint[];
  label: string;
}

/** Rings of fewer segments have no room for a figure. */
const LABELLED = 8;

/** The place of a line that lies farthest from all points, where its figure hides none of theirs. */
function labelPlace(segments: readonly Segment[], points: readonly (readonly [number, number])[]): Segment | undefined {
  const room = (segment: Segment) => Math.min(...points.map(([x, y]) => Math.hypot(segment[0] - x, segment[1] - y)));
  return segments.reduce<Segment | undefined>((best, one) => (best && room(best) >= room(one) ? best : one), undefined);
}

export function ContourLayer({ panel, grid, steps, strong, figure, points = [], label }: Props) {
  const kx = DRAWN_WIDTH / grid.columns;
  const ky = drawnHeight(panel) / grid.rows;
  const k = scale(panel);
  const grow = grown(panel);
  return (
    <g aria-label={label} role="img">
      {levels(grid, steps).map((level) => {
        const segments = contour(grid, level);
        const first =
          segments.length < LABELLED
            ? undefined
            : labelPlace(
                segments,
                points.map((point) => [((point.x + 0.5) * k) / kx, ((point.y + 0.5) * k) / ky] as const),
              );
        return (
          <g key={level}>
            <path
              d={segments
                .map(
                  ([x1, y1, x2, y2]) =>
                    `M${(x1 * kx).toFixed(1)} ${(y1 * ky).toFixed(1)}L${(x2 * kx).toFixed(1)} ${(y2 * ky).toFixed(1)}`,
                )
                .join("")}
              fill="none"
              stroke="#d8d8d8"
              strokeWidth={(level === strong ? 2.6 : 1.3) * grow}
              opacity={0.75}
            />
            {first && (
              <text
                x={first[0] * kx}
                y={first[1] * ky}
                fontSize={17 * grow}
                fill="#fff"
                stroke="#4a4a4a"
                strokeWidth={4 * grow}
                paintOrder="stroke"
                textAnchor="middle"
              >
                {figure(level)}
              </text>
            )}
          </g>
        );
      })}
      {points.map((point) => (
        <g
          key={`${point.x}.${point.y}`}
          transform={`translate(${(point.x + 0.5) * k} ${(point.y + 0.5) * k}) scale(${grow})`}
        >
          <circle r="4" fill="none" stroke="#fff" strokeWidth="2" />
          <text
            y="-10"
            fontSize="24"
            fontWeight="600"
            fill="#fff"
            stroke="#333"
            strokeWidth="5"
            paintOrder="stroke"
            textAnchor="middle"
          >
            {figure(point.level)}
          </text>
        </g>
      ))}
    </g>
  );
}
