// Places on a coarse grid over the panel, as they are marked by finger, mouse or keys.

export type Cell = [number, number];

export const cellKey = ([column, row]: Cell): string => `${column}.${row}`;

/** The cell at a place in shares of the grid's width and height; beside it, the nearest one. */
export function cellAt(x: number, y: number, columns: number, rows: number): Cell {
  const clamped = (share: number, count: number) => Math.min(count - 1, Math.max(0, Math.floor(share * count)));
  return [clamped(x, columns), clamped(y, rows)];
}

const MOVES: Record<string, Cell> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** Where a key leads from a cell; null for a key that moves nothing. The grid has ends. */
export function movedCursor(key: string, [column, row]: Cell, columns: number, rows: number): Cell | null {
  const move = MOVES[key];
  if (!move) return null;
  return [Math.min(columns - 1, Math.max(0, column + move[0])), Math.min(rows - 1, Math.max(0, row + move[1]))];
}
