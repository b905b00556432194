// Where the pattern goes on the canvas, in true device pixels.

export interface Size {
  width: number;
  height: number;
}
export interface Placement extends Size {
  x: number;
  y: number;
  canvasWidth: number;
  canvasHeight: number;
  /** Device pixels that the browser keeps for itself, across and down together. */
  rim: number;
  exact: boolean;
  warning: string;
}

/** The pattern 1:1 where the canvas is the panel, or the panel less a rim; scaled, and said so, where it cannot be 1:1. */
export function place(panel: Size, canvas: Size, gap: { left: number; top: number }): Placement {
  const base = { canvasWidth: canvas.width, canvasHeight: canvas.height };
  const across = panel.width - canvas.width;
  const down = panel.height - canvas.height;
  if (across === 0 && down === 0)
    return { ...base, x: 0, y: 0, width: panel.width, height: panel.height, rim: 0, exact: true, warning: "" };
  const mostlyThere = across >= 0 && down >= 0 && across < 0.2 * panel.width && down < 0.25 * panel.height;
  if (mostlyThere) {
    // panel and picture keep the same coordinates; what lies under the rim is not seen
    return {
      ...base,
      x: 0 - Math.min(across, Math.round(gap.left)),
      y: 0 - Math.min(down, Math.round(gap.top)),
      width: panel.width,
      height: panel.height,
      rim: across + down,
      exact: false,
      warning: `A rim of ${across} x ${down} pixels stays uncovered. Use full screen: F11, F or a tap.`,
    };
  }
  return {
    ...base,
    x: 0,
    y: 0,
    width: canvas.width,
    height: canvas.height,
    rim: 0,
    exact: false,
    warning: `Not 1:1: this screen shows ${canvas.width} x ${canvas.height} pixels, the job says ${panel.width} x ${panel.height}. Switch scaling and zoom off, or correct the resolution at Intake.`,
  };
}
