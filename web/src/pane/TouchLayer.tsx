// What a touch session says, drawn on the pane: cells that do not answer, cells that nobody crossed, touches that nobody made, the strokes.

import { useId } from "react";
import { DRAWN_WIDTH, drawnHeight, grown, scale, type PanelSize } from "./geometry";

export interface TouchZone {
  kind: string;
  cells: readonly (readonly number[])[];
  intermittent: boolean;
}
export interface TouchPhantom {
  x: number;
  y: number;
  events: number;
  kind: string;
}
export interface DrawnStroke {
  points: readonly (readonly number[])[];
}
interface Props {
  panel: PanelSize;
  columns: number;
  rows: number;
  zones: readonly TouchZone[];
  unproven: readonly (readonly number[])[];
  /** Of these, such as stayed silent once. */
  suspected?: readonly (readonly number[])[];
  phantoms: readonly TouchPhantom[];
  strokes?: readonly DrawnStroke[];
  /** Strokes are drawn up to this time, ms. */
  until?: number;
}

/** A stroke as a path, up to a time; empty when it begins later. */
export function strokePath(panel: PanelSize, stroke: DrawnStroke, until: number): string {
  const k = scale(panel);
  const parts: string[] = [];
  for (const [t = 0, x = 0, y = 0] of stroke.points) {
    if (t > until) break;
    parts.push(`${parts.length ? "L" : "M"}${((x + 0.5) * k).toFixed(1)} ${((y + 0.5) * k).toFixed(1)}`);
  }
  return parts.length === 1 ? `${parts[0] ?? ""}h0.1` : parts.join("");
}

/** The outline of some cells, without the lines between them. */
export function outline(cells: readonly (readonly number[])[], wide: number, high: number): string {
  const own = new Set(cells.map(([column, row]) => `${column}.${row}`));
  return cells
    .map(([column = 0, row = 0]) => {
      const [x, y] = [column * wide, row * high];
      const has = (dx: number, dy: number) => own.has(`${column + dx}.${row + dy}`);
      return `${has(0, -1) ? "" : `M${x} ${y}h${wide}`}${has(0, 1) ? "" : `M${x} ${y + high}h${wide}`}${has(-1, 0) ? "" : `M${x} ${y}v${high}`}${has(1, 0) ? "" : `M${x + wide} ${y}v${high}`}`;
    })
    .join("");
}

const area = (cells: readonly (readonly number[])[], wide: number, high: number): string =>
  cells.map(([column = 0, row = 0]) => `M${column * wide} ${row * high}h${wide}v${high}h${-wide}z`).join("");

export function TouchLayer({
  panel,
  columns,
  rows,
  zones,
  unproven,
  suspected = [],
  phantoms,
  strokes = [],
  until = Infinity,
}: Props) {
  const [hatch, stripes] = [useId(), useId()];
  const wide = DRAWN_WIDTH / columns;
  const high = drawnHeight(panel) / rows;
  const grow = grown(panel);
  return (
    <g aria-label="Touch" role="group">
      <defs>
        <pattern id={hatch} width="10" height="10" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V10" stroke="#8a8a8a" strokeWidth="3" />
        </pattern>
        <pattern id={stripes} width="26" height="26" patternUnits="userSpaceOnUse">
          <path d="M0 6H26M0 19H26" stroke="#000" strokeWidth="8" />
        </pattern>
      </defs>
      {unproven.length > 0 && (
        <path d={area(unproven, wide, high)} fill={`url(#${hatch})`}>
          <title>not proven: no finger surely crossed here</title>
        </path>
      )}
      {suspected.length > 0 && (
        <path
          data-suspected
          d={outline(suspected, wide, high)}
          fill="none"
          stroke="#fff"
          strokeWidth={3 * grow}
          strokeLinecap="round"
          strokeDasharray={`0.1 ${7 * grow}`}
        >
          <title>silent once: perhaps dead, draw it again</title>
        </path>
      )}
      {zones.map((zone, n) => (
        <g key={n} data-zone={zone.kind}>
          <path
            d={area(zone.cells, wide, high)}
            fill={zone.intermittent ? `url(#${stripes})` : "#000"}
            fillOpacity={zone.intermittent ? 1 : 0.85}
          >
            <title>{`${zone.intermittent ? "answers at times" : "does not answer"}: ${zone.kind}`}</title>
          </path>
          <path
            d={outline(zone.cells, wide, high)}
            fill="none"
            stroke="#fff"
            strokeWidth={2.4 * grow}
            strokeDasharray={zone.intermittent ? "10 7" : undefined}
          />
        </g>
      ))}
      {strokes.map((stroke, n) => (
        <path
          key={n}
          d={strokePath(panel, stroke, until)}
          fill="none"
          stroke="#fff"
          strokeOpacity="0.7"
          strokeWidth={3 * grow}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
      {phantoms.map((one, n) => (
        <g
          key={n}
          transform={`translate(${(one.x + 0.5) * scale(panel)} ${(one.y + 0.5) * scale(panel)}) scale(${grow})`}
          data-phantom={one.kind}
        >
          <title>{`${one.events} events that nobody made: ${one.kind.replace(/_/g, " ")}`}</title>
          <path
            d="M-26 0a26 26 0 0 1 52 0M-17 0a17 17 0 0 1 34 0M-8 0a8 8 0 0 1 16 0"
            fill="none"
            stroke="#fff"
            strokeWidth="3"
          />
          <path d="M-26 10H26" stroke="#fff" strokeWidth="3" />
        </g>
      ))}
    </g>
  );
}
