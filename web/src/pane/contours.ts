// Contour lines of a coarse field of values (marching squares), in cell coordinates: cell (0, 0) has its centre at 0.5, 0.5.

export interface Grid {
  columns: number;
  rows: number;
  values: readonly number[];
}
export type Segment = readonly [number, number, number, number];

const at = (grid: Grid, column: number, row: number): number => grid.values[row * grid.columns + column] ?? 0;

/** Segments along which the field crosses a level, between the centres of neighbouring cells. */
export function contour(grid: Grid, level: number): Segment[] {
  const out: Segment[] = [];
  for (let row = 0; row + 1 < grid.rows; row += 1) {
    for (let column = 0; column + 1 < grid.columns; column += 1) {
      const corners = [
        at(grid, column, row),
        at(grid, column + 1, row),
        at(grid, column + 1, row + 1),
        at(grid, column, row + 1),
      ] as const;
      const places = [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ] as const;
      const crossings: [number, number][] = [];
      for (let side = 0; side < 4; side += 1) {
        const [a, b] = [corners[side] ?? 0, corners[(side + 1) % 4] ?? 0];
        if (a < level === b < level) continue;
        const share = (level - a) / (b - a);
        const [p, q] = [places[side] ?? places[0], places[(side + 1) % 4] ?? places[0]];
        crossings.push([column + 0.5 + p[0] + share * (q[0] - p[0]), row + 0.5 + p[1] + share * (q[1] - p[1])]);
      }
      // a saddle has four crossings; joining them in turn keeps both branches apart
      for (let n = 0; n + 1 < crossings.length; n += 2) {
        const [p, q] = [crossings[n], crossings[n + 1]];
        if (p && q) out.push([p[0], p[1], q[0], q[1]]);
      }
    }
  }
  return out;
}

/** Levels at the finest of the steps that leaves few enough to read, or at twice the coarsest. */
export function levels(grid: Grid, steps: readonly number[]): number[] {
  const low = Math.min(...grid.values);
  const high = Math.max(...grid.values);
  const step = steps.find((one) => (high - low) / one <= 9) ?? 2 * (steps.at(-1) ?? 1);
  const out: number[] = [];
  for (let n = Math.ceil(low / step - 1e-9); n <= high / step + 1e-9; n += 1)
    out.push(Number((n * step).toPrecision(6)));
  return out;
}

/** The values of one row or column of cells. */
export function profile(grid: Grid, along: "row" | "column", index: number): number[] {
  return along === "row"
    ? Array.from({ length: grid.columns }, (_, column) => at(grid, column, index))
    : Array.from({ length: grid.rows }, (_, row) => at(grid, index, row));
}
