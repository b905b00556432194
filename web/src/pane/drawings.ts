// Places of what is drawn of a panel or a device: pure arithmetic, in the drawing's own units.

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

export type Side = "left" | "middle" | "right";
export type Edge = "top" | "bottom" | "left" | "right";

/** Where the plug sits in a panel's outline. Sides are told as seen from the back; from the front they are mirrored. */
export function plugBox(panel: Box, side: Side, edge: "top" | "bottom", seen: "back" | "front"): Box {
  const width = panel.width * 0.2;
  const height = panel.height * 0.07;
  const shown = seen === "back" || side === "middle" ? side : side === "left" ? "right" : "left";
  const share = { left: 0.2, middle: 0.5, right: 0.8 }[shown];
  return {
    x: panel.x + panel.width * share - width / 2,
    y: edge === "bottom" ? panel.y + panel.height - height : panel.y,
    width,
    height,
  };
}

/** The strip along an edge where a pick must not go; `along` in shares of the edge, `depth` in the drawing's units. */
export function keepOutBox(device: Box, edge: Edge, along: readonly [number, number], depth: number): Box {
  const [from, to] = [Math.min(...along), Math.max(...along)];
  if (edge === "top" || edge === "bottom")
    return {
      x: device.x + device.width * from,
      y: edge === "top" ? device.y : device.y + device.height - depth,
      width: device.width * (to - from),
      height: depth,
    };
  return {
    x: edge === "left" ? device.x : device.x + device.width - depth,
    y: device.y + device.height * from,
    width: depth,
    height: device.height * (to - from),
  };
}

const MM_PER_INCH = 25.4;

/** Drawing units of a millimetre, for a device whose panel of this size is drawn so wide. */
export function unitsPerMm(panelUnits: number, widthPx: number, heightPx: number, diagonalIn: number | null): number {
  const widthMm = ((diagonalIn ?? 14) * MM_PER_INCH * widthPx) / Math.hypot(widthPx, heightPx);
  return panelUnits / widthMm;
}
