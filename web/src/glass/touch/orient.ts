// From what the browser shows to the panel in its natural orientation and back. Panel pixel (0, 0) covers -0.5..0.5.

import { place, type Placement, type Size } from "../placement";

export type Point = readonly [number, number];
export type Turn = 0 | 90 | 180 | 270;

/** The panel as it is shown now: turned, and placed on the canvas in device pixels. */
export interface View {
  panel: Size;
  turn: Turn;
  at: Placement;
}

/** How far the picture is turned against the panel: as the screen says, except where the shapes contradict it. */
export function turnOf(panel: Size, canvas: Size, angle: number): Turn {
  const told = ((((Math.round(angle / 90) * 90) % 360) + 360) % 360) as Turn;
  const same = panel.width >= panel.height === canvas.width >= canvas.height;
  if (same) return told === 180 ? 180 : 0;
  return told === 270 ? 270 : 90;
}

export function viewOf(panel: Size, canvas: Size, angle: number, gap: { left: number; top: number }): View {
  const turn = turnOf(panel, canvas, angle);
  const seen = turn === 90 || turn === 270 ? { width: panel.height, height: panel.width } : panel;
  return { panel, turn, at: place(seen, canvas, gap) };
}

/** Canvas pixels to panel pixels. */
export function toPanel(view: View, x: number, y: number): Point {
  const { panel, turn, at } = view;
  const wide = turn === 90 || turn === 270 ? panel.height : panel.width;
  const high = turn === 90 || turn === 270 ? panel.width : panel.height;
  const u = ((x - at.x) / at.width) * wide;
  const v = ((y - at.y) / at.height) * high;
  if (turn === 90) return [panel.width - v - 0.5, u - 0.5];
  if (turn === 180) return [panel.width - u - 0.5, panel.height - v - 0.5];
  if (turn === 270) return [v - 0.5, panel.height - u - 0.5];
  return [u - 0.5, v - 0.5];
}

/** Panel pixels to canvas pixels. */
export function toView(view: View, x: number, y: number): Point {
  const { panel, turn, at } = view;
  const [a, b] = [x + 0.5, y + 0.5];
  const [u, v] =
    turn === 90
      ? [b, panel.width - a]
      : turn === 180
        ? [panel.width - a, panel.height - b]
        : turn === 270
          ? [panel.height - b, a]
          : [a, b];
  const wide = turn === 90 || turn === 270 ? panel.height : panel.width;
  const high = turn === 90 || turn === 270 ? panel.width : panel.height;
  return [at.x + (u / wide) * at.width, at.y + (v / high) * at.height];
}
