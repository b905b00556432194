// A measured field over the pane as figures in their places, a few across.

import type { Grid } from "./contours";
import { drawnHeight, DRAWN_WIDTH, grown, type PanelSize } from "./geometry";

const EVERY = 3;

/** Median of the cells around the middle of each square of cells, with its place in cells. */
export function figures(grid: Grid): { column: number; row: number; value: number }[] {
  const out = [];
  for (let row = 0; row < grid.rows; row += EVERY) {
    for (let column = 0; column < grid.columns; column += EVERY) {
      const near = [];
      for (let y = row; y < Math.min(row + EVERY, grid.rows); y += 1) {
        for (let x = column; x < Math.min(column + EVERY, grid.columns); x += 1)
          near.push(grid.values[y * grid.columns + x] ?? 0);
      }
      near.sort((a, b) => a - b);
      out.push({
        column: (column + Math.min(column + EVERY, grid.columns)) / 2,
        row: (row + Math.min(row + EVERY, grid.rows)) / 2,
        value: near[Math.floor(near.length / 2)] ?? 0,
      });
    }
  }
  return out;
}

export function FigureLayer({
  panel,
  grid,
  figure,
  label,
}: {
  panel: PanelSize;
  grid: Grid;
  figure: (value: number) => string;
  label: string;
}) {
  const grow = grown(panel);
  return (
    <g aria-label={label} role="img">
      {figures(grid).map(({ column, row, value }) => (
        <text
          key={`${column}.${row}`}
          x={(column * DRAWN_WIDTH) / grid.columns}
          y={(row * drawnHeight(panel)) / grid.rows}
          fontSize={20 * grow}
          fill="#fff"
          opacity={0.85}
          textAnchor="middle"
          dominantBaseline="central"
        >
          {figure(value)}
        </text>
      ))}
    </g>
  );
}
