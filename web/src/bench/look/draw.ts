// One frame of the view: tiles, marks, ruler and scale bar, on a canvas.

import { isExtended, markOf } from "../../pane/marks";
import type { Finding } from "../api/client";
import type { Layer } from "./tiles";
import { distanceWords, levelFor, scaleBar, tilesIn, toWindow, type Box, type Place, type View } from "./view";

export interface Scene {
  panel: Box;
  window: Box;
  ratio: number;
  view: View;
  /** What is drawn, and from which share of the window's width to which. */
  layers: readonly { layer: Layer; from: number; to: number }[];
  findings: readonly Finding[];
  marks: boolean;
  selected: Finding | null;
  ruler: readonly Place[];
  pitchMm: number | null;
}

const GROUND = "#2b2b2b";
const LINE = "#fff";
const HALO = "#000";
/** From so many CSS px per panel pixel on, a photo's own pixels are shown as they are. */
const SHARP_FROM = 6;
/** Of a mark's drawing, whose circle has a radius of 22. */
const MARK_SCALE = 0.55;

function drawLayer(pen: CanvasRenderingContext2D, scene: Scene, { layer, from, to }: Scene["layers"][number]) {
  const { view, window, panel, ratio } = scene;
  pen.save();
  pen.beginPath();
  pen.rect(from * window.width, 0, (to - from) * window.width, window.height);
  pen.clip();
  pen.imageSmoothingEnabled = view.zoom / layer.cut.scale < SHARP_FROM;
  const level = levelFor(layer.cut, view.zoom, ratio);
  // what is coarser lies under what is still on its way
  for (const at of new Set([layer.cut.levels - 1, level]))
    for (const tile of tilesIn(layer.cut, at, panel, view, window)) {
      const image = layer.store.get(tile.level, tile.column, tile.row);
      if (!image) continue;
      const corner = toWindow({ x: tile.left, y: tile.top }, view, window);
      pen.drawImage(image, corner.x, corner.y, tile.width * view.zoom, tile.height * view.zoom);
    }
  pen.restore();
}

/** White with a dark rim: seen on white and on black. */
function stroke(pen: CanvasRenderingContext2D, path: Path2D, width = 1.6, dash: number[] = []) {
  for (const [colour, wide, broken] of [
    [HALO, width + 1.8, []],
    [LINE, width, dash],
  ] as const) {
    pen.strokeStyle = colour;
    pen.lineWidth = wide;
    pen.setLineDash([...broken]);
    pen.stroke(path);
  }
}

function words(pen: CanvasRenderingContext2D, text: string, x: number, y: number, align: CanvasTextAlign = "left") {
  pen.font = "13px system-ui, sans-serif";
  pen.textAlign = align;
  pen.textBaseline = "bottom";
  pen.lineWidth = 4;
  pen.lineJoin = "round";
  pen.setLineDash([]);
  pen.strokeStyle = HALO;
  pen.strokeText(text, x, y);
  pen.fillStyle = LINE;
  pen.fillText(text, x, y);
}

function drawMark(pen: CanvasRenderingContext2D, scene: Scene, finding: Finding) {
  const { view, window } = scene;
  const rejected = finding.decision?.verdict === "rejected";
  const corner = toWindow({ x: finding.x - finding.w / 2, y: finding.y - finding.h / 2 }, view, window);
  const [width, height] = [Math.max(finding.w * view.zoom, 5), Math.max(finding.h * view.zoom, 5)];
  if (
    corner.x > window.width + 40 ||
    corner.y > window.height + 40 ||
    corner.x + width < -40 ||
    corner.y + height < -40
  )
    return;
  pen.save();
  pen.globalAlpha = rejected ? 0.4 : 1;
  const box = new Path2D();
  const room = 3;
  box.rect(corner.x - room, corner.y - room, width + 2 * room, height + 2 * room);
  const extended = isExtended(finding.kind);
  if (extended || view.zoom >= 2) stroke(pen, box, 1.2, extended ? [6, 4] : []);
  if (!extended) {
    // beside the place and not over it: what is looked at stays free
    const mark = new Path2D();
    const beside =
      view.zoom >= 2
        ? { x: corner.x + width + 14, y: corner.y - 14 }
        : { x: corner.x + width / 2, y: corner.y + height / 2 };
    mark.addPath(
      new Path2D(markOf(finding.kind).path),
      new DOMMatrix([MARK_SCALE, 0, 0, MARK_SCALE, beside.x, beside.y]),
    );
    stroke(pen, mark);
  }
  if (scene.selected === finding) {
    const middle = { x: corner.x + width / 2, y: corner.y + height / 2 };
    const reach = Math.max(width, height) / 2 + 10;
    const cross = new Path2D(
      `M${middle.x - reach - 16} ${middle.y}h16M${middle.x + reach} ${middle.y}h16M${middle.x} ${middle.y - reach - 16}v16M${middle.x} ${middle.y + reach}v16`,
    );
    stroke(pen, cross, 2.2);
  }
  pen.restore();
}

function drawRuler(pen: CanvasRenderingContext2D, scene: Scene) {
  const ends = scene.ruler.map((one) => toWindow(one, scene.view, scene.window));
  for (const end of ends) stroke(pen, new Path2D(`M${end.x - 8} ${end.y}h16M${end.x} ${end.y - 8}v16`), 1.6);
  const [from, to] = [scene.ruler[0], scene.ruler[1]];
  const [start, end] = [ends[0], ends[1]];
  if (!from || !to || !start || !end) return;
  stroke(pen, new Path2D(`M${start.x} ${start.y}L${end.x} ${end.y}`), 1.6);
  const text = distanceWords(from, to, scene.view.zoom, scene.pitchMm);
  // under the lower end, where the line does not run through it
  const low = start.y > end.y ? start : end;
  const middle = Math.min(Math.max(low.x, 140), scene.window.width - 140);
  words(pen, text, middle, Math.min(Math.max(low.y + 28, 18), scene.window.height - 30), "center");
}

function drawScale(pen: CanvasRenderingContext2D, scene: Scene) {
  const bar = scaleBar(scene.view.zoom, scene.pitchMm);
  const [left, low] = [14, scene.window.height - 14];
  stroke(pen, new Path2D(`M${left} ${low - 6}v6h${bar.px}v-6`), 2);
  words(pen, bar.words, left + bar.px / 2, low - 6, "center");
}

export function drawScene(pen: CanvasRenderingContext2D, scene: Scene): void {
  const { window, ratio } = scene;
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.fillStyle = GROUND;
  pen.fillRect(0, 0, window.width, window.height);
  for (const one of scene.layers) drawLayer(pen, scene, one);
  if (scene.layers.length > 1) {
    const at = (scene.layers[1]?.from ?? 0) * window.width;
    stroke(pen, new Path2D(`M${at} 0V${window.height}`), 1.5);
  }
  if (scene.marks) for (const finding of scene.findings) drawMark(pen, scene, finding);
  drawRuler(pen, scene);
  drawScale(pen, scene);
}
