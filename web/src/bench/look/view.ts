// Looking at a photo that is laid over the panel: which part of it, how large, and by which tiles. Places are panel pixels; pixel (0, 0) covers
// -0.5 to 0.5.

export interface Place {
  x: number;
  y: number;
}
/** What is in the middle of the window, and how many CSS px a panel pixel takes. */
export interface View extends Place {
  zoom: number;
}
export interface Box {
  width: number;
  height: number;
}
/** A photo as the server cut it: `scale` px of level 0 per panel px, each further level half of it. */
export interface Cut {
  scale: number;
  levels: number;
  tile_px: number;
}
export interface TilePlace {
  level: number;
  column: number;
  row: number;
  /** In panel pixels: its upper left corner, and its size. */
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A panel pixel is never drawn larger than this: its neighbours must be seen too. */
export const MOST_ZOOM = 48;
const RIM = 0.96;

export function fitted(panel: Box, window: Box): View {
  const zoom = RIM * Math.min(window.width / panel.width, window.height / panel.height);
  return { x: panel.width / 2 - 0.5, y: panel.height / 2 - 0.5, zoom: zoom > 0 ? zoom : 1 };
}

/** The view held to the panel: its middle stays on it, and it is no smaller than half of what fits. */
export function held(view: View, panel: Box, window: Box): View {
  const least = fitted(panel, window).zoom / 2;
  return {
    x: Math.min(Math.max(view.x, -0.5), panel.width - 0.5),
    y: Math.min(Math.max(view.y, -0.5), panel.height - 0.5),
    zoom: Math.min(Math.max(view.zoom, least), MOST_ZOOM),
  };
}

export const toWindow = (place: Place, view: View, window: Box): Place => ({
  x: window.width / 2 + (place.x - view.x) * view.zoom,
  y: window.height / 2 + (place.y - view.y) * view.zoom,
});
export const toPanel = (at: Place, view: View, window: Box): Place => ({
  x: view.x + (at.x - window.width / 2) / view.zoom,
  y: view.y + (at.y - window.height / 2) / view.zoom,
});

/** Larger or smaller around a place of the window, which stays under the finger. */
export function zoomed(view: View, by: number, at: Place, window: Box): View {
  const under = toPanel(at, view, window);
  const zoom = Math.min(MOST_ZOOM, view.zoom * by);
  return {
    zoom,
    x: under.x - (at.x - window.width / 2) / zoom,
    y: under.y - (at.y - window.height / 2) / zoom,
  };
}

/** The coarsest level that still has a px of its own for each px of the display. */
export function levelFor(cut: Cut, zoom: number, ratio: number): number {
  const wanted = Math.floor(Math.log2(Math.max(cut.scale / (zoom * ratio), 1e-6)));
  return Math.min(Math.max(wanted, 0), cut.levels - 1);
}

/** The tiles of a level that the window shows. */
export function tilesIn(cut: Cut, level: number, panel: Box, view: View, window: Box): TilePlace[] {
  const perTile = (cut.tile_px * 2 ** level) / cut.scale;
  const from = toPanel({ x: 0, y: 0 }, view, window);
  const to = toPanel({ x: window.width, y: window.height }, view, window);
  const last = (size: number) => Math.ceil(size / perTile) - 1;
  const first = (at: number) => Math.max(0, Math.floor((at + 0.5) / perTile));
  const found: TilePlace[] = [];
  for (let row = first(from.y); row <= Math.min(last(panel.height), Math.floor((to.y + 0.5) / perTile)); row += 1)
    for (
      let column = first(from.x);
      column <= Math.min(last(panel.width), Math.floor((to.x + 0.5) / perTile));
      column += 1
    )
      found.push({
        level,
        column,
        row,
        left: column * perTile - 0.5,
        top: row * perTile - 0.5,
        width: Math.min(perTile, panel.width - column * perTile),
        height: Math.min(perTile, panel.height - row * perTile),
      });
  return found;
}

/** Millimetres per panel pixel, where the panel's diagonal is known. */
export const pitchOf = (panel: Box, diagonalIn: number | null | undefined): number | null =>
  diagonalIn ? (diagonalIn * 25.4) / Math.hypot(panel.width, panel.height) : null;

/** A length for the scale bar: 1, 2 or 5 times a power of ten, between 60 and 150 CSS px where there is one. */
export function scaleBar(zoom: number, pitchMm: number | null): { px: number; words: string } {
  const unit = pitchMm === null ? zoom : zoom / pitchMm;
  const power = 10 ** Math.floor(Math.log10(150 / unit));
  const length = power * ([5, 2, 1].find((one) => one * power * unit <= 150) ?? 1);
  return { px: length * unit, words: `${Number(length.toPrecision(2))} ${pitchMm === null ? "px" : "mm"}` };
}

/** A diagonal is named to a tenth of an inch and rounded; of a usual panel that is half a percent. */
const DIAGONAL_SHARE = 0.005;
/** Nobody points better than this, in panel pixels; farther away, than one px of the display. */
const POINTED_PX = 0.7;

/** How far two places are apart, no more exact than it is known. */
export function distanceWords(from: Place, to: Place, zoom: number, pitchMm: number | null): string {
  const [across, down] = [Math.abs(to.x - from.x), Math.abs(to.y - from.y)];
  const far = Math.hypot(across, down);
  const pointing = Math.SQRT2 * Math.max(POINTED_PX, 1 / zoom);
  if (pitchMm === null) {
    const off = Math.max(1, Math.round(pointing));
    return `${Math.round(far)} ± ${off} px (${Math.round(across)} across, ${Math.round(down)} down)`;
  }
  const off = Math.hypot(DIAGONAL_SHARE * far, pointing) * pitchMm;
  const digits = off >= 0.95 ? 0 : off >= 0.095 ? 1 : 2;
  const mm = (px: number) => (px * pitchMm).toFixed(digits);
  return `${mm(far)} ± ${off.toFixed(digits)} mm (${mm(across)} across, ${mm(down)} down; ${Math.round(far)} px)`;
}

/** A place as the address bar keeps it. */
export const asText = (view: View): string => [view.x, view.y, view.zoom].map((one) => one.toFixed(2)).join(",");
export function fromText(text: string | null): View | null {
  const [x = NaN, y = NaN, zoom = NaN] = (text ?? "").split(",").map(Number);
  return Number.isFinite(x) && Number.isFinite(y) && zoom > 0 ? { x, y, zoom } : null;
}
