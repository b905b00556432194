// Pure geometry of the pane: panel pixels to drawing units. Panel pixel (0, 0) covers -0.5..0.5.

export interface PanelSize {
  width: number;
  height: number;
}
export interface Spot {
  x: number;
  y: number;
  w: number;
  h: number;
}

export const DRAWN_WIDTH = 1000;
export const CELL_COLUMNS = 48;

export const drawnHeight = (panel: PanelSize): number => (DRAWN_WIDTH * panel.height) / panel.width;
/** How much larger marks and figures are drawn on a tall panel, whose drawing is shown smaller to fit. */
export const grown = (panel: PanelSize): number => Math.max(1, drawnHeight(panel) / 700);
export const scale = (panel: PanelSize): number => DRAWN_WIDTH / panel.width;

/** Box of a finding in drawing units. */
export function drawnBox(
  panel: PanelSize,
  spot: Spot,
): { x: number; y: number; width: number; height: number; cx: number; cy: number } {
  const k = scale(panel);
  const cx = (spot.x + 0.5) * k;
  const cy = (spot.y + 0.5) * k;
  const width = Math.max(spot.w * k, 3);
  const height = Math.max(spot.h * k, 3);
  return { x: cx - width / 2, y: cy - height / 2, width, height, cx, cy };
}

/** Box of an unproven cell (column, row) of the proven map. */
export function cellBox(
  panel: PanelSize,
  column: number,
  row: number,
): { x: number; y: number; width: number; height: number } {
  const rows = Math.max(1, Math.round((CELL_COLUMNS * panel.height) / panel.width));
  const width = DRAWN_WIDTH / CELL_COLUMNS;
  const height = drawnHeight(panel) / rows;
  return { x: column * width, y: row * height, width, height };
}
