// How a touch session looks on the glass: cells that have answered and those that have not, the path, the dot, the trail, the clock.

import type { Course } from "./course";
import { between, broken } from "./lettering";
import { toView, type Point, type View } from "./orient";

const GROUND = "#1c1c1c";
const OPEN_CELL = "#2f2f2f";
const OPEN_RIM = "#6a6a6a";
const FELT_CELL = "#4c4c4c";
const PATH = "#b5b5b5";
const LIGHT = "#f2f2f2";
const LETTERS = "#a8a8a8";
const RING_SHARE = 0.62; // of a cell
const LETTER_CELLS = 0.55; // so a line stands between two rows of the path
const LETTER_SHARE = 1 / 21; // of the width at most, so that a line holds some words
const LINE_SHARE = 0.84;

export interface Trail {
  from: Point;
  to: Point;
}

export class Drawing {
  private base = document.createElement("canvas");
  private view: View | null = null;

  constructor(private readonly canvas: HTMLCanvasElement) {}

  /** A new size, turn, step or word: everything that stays is drawn anew. */
  lay(view: View, course: Course, words = ""): void {
    this.view = view;
    const { canvasWidth, canvasHeight } = view.at;
    if (this.canvas.width !== canvasWidth || this.canvas.height !== canvasHeight) {
      this.canvas.width = canvasWidth;
      this.canvas.height = canvasHeight;
    }
    this.base.width = canvasWidth;
    this.base.height = canvasHeight;
    const pen = this.base.getContext("2d", { alpha: false });
    if (!pen) return;
    pen.fillStyle = GROUND;
    pen.fillRect(0, 0, canvasWidth, canvasHeight);
    for (let row = 0; row < course.grid.rows; row += 1) {
      for (let column = 0; column < course.grid.columns; column += 1) this.cell(pen, course, column, row);
    }
    const { step } = course;
    if (!step || course.phase === "end") return;
    this.letter(pen, course, words);
    pen.strokeStyle = PATH;
    pen.lineWidth = Math.max(1, this.px(course) / 26);
    if (step.kind === "multi_touch") {
      step.path.forEach(([x, y]) => {
        this.ring(pen, x, y, course);
      });
    } else if (step.path.length > 1) {
      pen.setLineDash([this.px(course) / 6, this.px(course) / 6]);
      pen.beginPath();
      step.path.forEach(([x, y], n) => {
        const [u, v] = toView(view, x, y);
        if (n) pen.lineTo(u, v);
        else pen.moveTo(u, v);
      });
      pen.stroke();
      pen.setLineDash([]);
    }
  }

  /** A cell of the grid in canvas pixels: its side, for everything that is sized by a finger. */
  private px(course: Course): number {
    return this.view
      ? (course.cellPx * this.view.at.width) / (this.view.turn % 180 ? this.view.panel.height : this.view.panel.width)
      : 1;
  }

  /** What is to be done, under the path. */
  private letter(pen: CanvasRenderingContext2D, course: Course, words: string): void {
    if (!this.view || !words) return;
    const { at, turn } = this.view;
    const rows = turn % 180 ? course.grid.columns : course.grid.rows;
    const size = Math.min(LETTER_CELLS * this.px(course), LETTER_SHARE * at.width);
    pen.fillStyle = LETTERS;
    pen.font = `${size.toFixed(1)}px sans-serif`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    const lines = broken(words, LINE_SHARE * at.width, (text) => pen.measureText(text).width);
    for (const { text, y } of between(lines, at.y, at.height / rows, at.height, 0.3))
      pen.fillText(text, at.x + at.width / 2, y);
  }

  private cell(pen: CanvasRenderingContext2D, course: Course, column: number, row: number): void {
    if (!this.view || course.isHidden(column, row)) return;
    const wide = course.panel.width / course.grid.columns;
    const high = course.panel.height / course.grid.rows;
    const [a, b] = toView(this.view, column * wide - 0.5, row * high - 0.5);
    const [c, d] = toView(this.view, (column + 1) * wide - 0.5, (row + 1) * high - 0.5);
    const [x, y, w, h] = [Math.min(a, c), Math.min(b, d), Math.abs(c - a), Math.abs(d - b)];
    const felt = course.isFelt(column, row);
    pen.fillStyle = felt ? FELT_CELL : OPEN_CELL;
    pen.fillRect(x, y, w + 0.5, h + 0.5);
    if (felt) return;
    pen.strokeStyle = OPEN_RIM;
    pen.lineWidth = 1;
    pen.strokeRect(Math.round(x) + 1.5, Math.round(y) + 1.5, w - 3, h - 3);
  }

  private ring(pen: CanvasRenderingContext2D, x: number, y: number, course: Course): void {
    if (!this.view) return;
    const [u, v] = toView(this.view, x, y);
    pen.beginPath();
    pen.arc(u, v, RING_SHARE * this.px(course), 0, 2 * Math.PI);
    pen.stroke();
  }

  /** Cells that have just answered. */
  answered(cells: readonly Point[], course: Course): void {
    const pen = this.base.getContext("2d", { alpha: false });
    if (pen)
      cells.forEach(([column, row]) => {
        this.cell(pen, course, column, row);
      });
  }

  /** New pieces of the trail stay; dashed where the finger had strayed. */
  trail(pieces: readonly Trail[], course: Course): void {
    const pen = this.base.getContext("2d", { alpha: false });
    if (!pen || !this.view) return;
    pen.strokeStyle = LIGHT;
    pen.lineCap = "round";
    pen.lineWidth = Math.max(2, this.px(course) / 14);
    pen.setLineDash(course.strayed ? [2, this.px(course) / 5] : []);
    pen.beginPath();
    for (const { from, to } of pieces) {
      const [a, b] = toView(this.view, from[0], from[1]);
      const [c, d] = toView(this.view, to[0], to[1]);
      pen.moveTo(a, b);
      pen.lineTo(c, d);
    }
    pen.stroke();
    pen.setLineDash([]);
  }

  /** A touch while the hands are off. */
  unasked(place: Point, course: Course): void {
    const pen = this.base.getContext("2d", { alpha: false });
    if (!pen) return;
    pen.strokeStyle = LIGHT;
    pen.lineWidth = 3;
    this.ring(pen, place[0], place[1], course);
  }

  /** One frame: what stays, and over it the dot or the clock. */
  frame(course: Course, now: number): void {
    const pen = this.canvas.getContext("2d", { alpha: false });
    if (!pen || !this.view) return;
    pen.drawImage(this.base, 0, 0);
    const dot = course.phase === "ready" || course.phase === "running" ? course.dot(now) : null;
    const size = this.px(course);
    if (dot && course.strayed && course.last) {
      // back to the dot: a line from where the finger is
      const [a, b] = toView(this.view, course.last[0], course.last[1]);
      const [c, d] = toView(this.view, dot[0], dot[1]);
      pen.strokeStyle = LIGHT;
      pen.lineWidth = Math.max(2, size / 16);
      pen.setLineDash([size / 8, size / 8]);
      pen.beginPath();
      pen.moveTo(a, b);
      pen.lineTo(c, d);
      pen.stroke();
      pen.setLineDash([]);
    }
    if (dot) {
      const [u, v] = toView(this.view, dot[0], dot[1]);
      pen.strokeStyle = LIGHT;
      pen.lineWidth = Math.max(3, size / 10);
      this.ring(pen, dot[0], dot[1], course);
      pen.fillStyle = LIGHT;
      pen.beginPath();
      pen.arc(u, v, size / 7, 0, 2 * Math.PI);
      pen.fill();
    }
    if (
      course.step &&
      course.phase === "running" &&
      (course.step.kind === "hands_off" ||
        course.step.kind === "hold" ||
        course.step.kind === "multi_touch" ||
        course.step.kind === "free")
    )
      this.clock(pen, course.leftMs(now));
  }

  private clock(pen: CanvasRenderingContext2D, leftMs: number): void {
    const { width, height } = this.canvas;
    const seconds = Math.ceil(leftMs / 1000);
    pen.fillStyle = LIGHT;
    pen.font = `600 ${Math.round(Math.min(width, height) / 6)}px sans-serif`;
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillText(`${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`, width / 2, height * 0.28);
  }
}
