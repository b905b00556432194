// Where a session is in its plan: which step, whether it waits for the finger, runs, or asks whether anything was drawn. No drawing here.

import type { Point } from "./orient";
import type { Row } from "./samples";

export interface Step {
  id: string;
  kind: "guided_path" | "hands_off" | "multi_touch" | "edge" | "hold" | "free";
  path: [number, number][];
  start_ms: number;
  end_ms: number;
  charging: boolean | null;
  fingers: number | null;
}
export interface Grid {
  columns: number;
  rows: number;
  hidden: [number, number][];
}
export type Phase = "ready" | "running" | "asking" | "end";
export type Do = "go" | "skip" | "back";

/** A finger follows behind the dot: reports of a step still come this long after the dot has arrived. */
export const TAIL_MS = 350;
const LAG_MS = 700;
const STRAYED_CELLS = 1.6;

export const isGuided = (step: Step): boolean =>
  (step.kind === "guided_path" || step.kind === "edge") && step.path.length > 1;
export const tookMs = (step: Step): number => step.end_ms - step.start_ms;

type Path = readonly (readonly [number, number])[];
const measured = new WeakMap<Path, { lengths: number[]; total: number }>();

/** A path is asked for its places at every touch, so it is measured once. */
function measure(path: Path): { lengths: number[]; total: number } {
  let known = measured.get(path);
  if (!known) {
    const lengths = path.slice(1).map((to, n) => Math.hypot(to[0] - (path[n]?.[0] ?? 0), to[1] - (path[n]?.[1] ?? 0)));
    known = { lengths, total: lengths.reduce((sum, length) => sum + length, 0) };
    measured.set(path, known);
  }
  return known;
}

/** The place on a path after a share of its way. */
export function alongPath(path: Path, share: number): Point {
  const { lengths, total } = measure(path);
  let left = Math.max(0, Math.min(1, share)) * total;
  for (let n = 0; n < lengths.length; n += 1) {
    const [from, to, length] = [path[n], path[n + 1], lengths[n] ?? 0];
    if (!from || !to) break;
    if (left <= length || n === lengths.length - 1) {
      const part = length ? Math.min(1, left / length) : 0;
      return [from[0] + part * (to[0] - from[0]), from[1] + part * (to[1] - from[1])];
    }
    left -= length;
  }
  return path[0] ?? [0, 0];
}

export class Course {
  phase: Phase = "ready";
  index: number;
  begunAt = 0;
  /** Reports of the step that runs, and whether the finger is off the path just now. */
  felt = 0;
  strayed = false;
  /** Where the finger was last, on the panel. */
  last: Point | null = null;
  /** Touches that came while the hands were off. */
  unasked = 0;
  /** Cells that answered for the first time and are not drawn so yet. */
  fresh: Point[] = [];
  private readonly felts: boolean[];
  private readonly hidden: Set<number>;

  /** `record` is given every step that was carried out, as it was. */
  constructor(
    readonly panel: { width: number; height: number },
    readonly grid: Grid,
    public steps: Step[],
    done: string[],
    private readonly record: (step: Step) => void,
  ) {
    this.felts = new Array<boolean>(grid.columns * grid.rows).fill(false);
    this.hidden = new Set(grid.hidden.map(([column, row]) => row * grid.columns + column));
    this.index = this.firstOpen(new Set(done));
    if (!this.step) this.phase = "end";
  }

  get step(): Step | undefined {
    return this.steps[this.index];
  }
  /** Cells that gave no report yet. */
  get left(): number {
    return this.felts.reduce((count, felt, cell) => count + (felt || this.hidden.has(cell) ? 0 : 1), 0);
  }
  get cellPx(): number {
    return (this.panel.width / this.grid.columns + this.panel.height / this.grid.rows) / 2;
  }
  isFelt(column: number, row: number): boolean {
    return this.felts[row * this.grid.columns + column] ?? false;
  }
  isHidden(column: number, row: number): boolean {
    return this.hidden.has(row * this.grid.columns + column);
  }

  private firstOpen(done: ReadonlySet<string>): number {
    const at = this.steps.findIndex((step) => !done.has(step.id));
    return at < 0 ? this.steps.length : at;
  }

  /** Steps that were asked for meanwhile. */
  extend(steps: Step[], done: string[]): void {
    const known = this.steps.length;
    this.steps = steps;
    if (this.phase === "end" && steps.length > known) {
      this.index = this.firstOpen(new Set([...done, ...steps.slice(0, known).map((step) => step.id)]));
      this.phase = this.step ? "ready" : "end";
    }
  }

  do(what: Do, now: number): void {
    const { phase } = this;
    if (what === "go" && phase === "ready") this.begin(now);
    else if (what === "go" && phase === "asking") this.finish();
    else if (what === "skip" && phase !== "end") this.next();
    else if (what === "back" && this.index > 0 && (phase === "ready" || phase === "end")) {
      this.index -= 1;
      this.phase = "ready";
    } else if (what === "back" && phase !== "end") this.phase = "ready";
  }

  /** Where the dot is; of a step that waits, where it begins. */
  dot(now: number): Point | null {
    const { step } = this;
    if (!step || !step.path.length || step.kind === "multi_touch") return null;
    return alongPath(step.path, this.phase === "running" && isGuided(step) ? (now - this.begunAt) / tookMs(step) : 0);
  }

  leftMs(now: number): number {
    return this.step
      ? Math.max(0, this.phase === "running" ? this.begunAt + tookMs(this.step) - now : tookMs(this.step))
      : 0;
  }

  tick(now: number): void {
    const { step } = this;
    if (this.phase !== "running" || !step) return;
    const tail = step.kind === "hands_off" ? 0 : TAIL_MS;
    if (now < this.begunAt + tookMs(step) + tail) return;
    // a panel that felt nothing at all is dead, or nobody drew: only the person knows
    if (this.felt === 0 && step.kind !== "hands_off" && step.kind !== "free") this.phase = "asking";
    else this.finish();
  }

  /** Touches as they come; a finger that is laid on the ring starts the step. */
  take(rows: readonly Row[], now: number): void {
    let last: Point | null = null;
    for (const [t, , ev, x, y] of rows) {
      if (x === null || y === null || ev === "up" || ev === "cancel") continue;
      const { step, phase } = this;
      if (phase === "running" && step) {
        this.felt += 1;
        if (step.kind === "hands_off") {
          if (ev === "down") this.unasked += 1;
          continue;
        }
        last = [x, y];
      } else if (phase === "ready" && ev === "down" && step && step.kind !== "hands_off" && this.onStart(step, x, y)) {
        this.begin(Math.min(t, now));
        this.felt += 1;
      }
      this.mark(x, y);
    }
    if (last) this.last = last;
    if (last && this.step && isGuided(this.step))
      this.strayed = this.awayFrom(this.step, now, last[0], last[1]) > STRAYED_CELLS * this.cellPx;
  }

  private onStart(step: Step, x: number, y: number): boolean {
    if (!step.path.length) return true;
    const starts = step.kind === "multi_touch" ? step.path : step.path.slice(0, 1);
    return starts.some((start) => Math.hypot(start[0] - x, start[1] - y) <= 1.3 * this.cellPx);
  }

  private awayFrom(step: Step, now: number, x: number, y: number): number {
    let least = Infinity;
    for (let back = -100; back <= LAG_MS; back += 50) {
      const [px, py] = alongPath(step.path, (now - back - this.begunAt) / tookMs(step));
      least = Math.min(least, Math.hypot(px - x, py - y));
    }
    return least;
  }

  private mark(x: number, y: number): void {
    const column = Math.floor(((x + 0.5) / this.panel.width) * this.grid.columns);
    const row = Math.floor(((y + 0.5) / this.panel.height) * this.grid.rows);
    if (column < 0 || row < 0 || column >= this.grid.columns || row >= this.grid.rows) return;
    const at = row * this.grid.columns + column;
    const fresh = !this.felts[at];
    this.felts[at] = true;
    if (fresh) this.fresh.push([column, row]);
  }

  private begin(now: number): void {
    this.phase = "running";
    this.begunAt = now;
    this.felt = 0;
    this.unasked = 0;
    this.strayed = false;
  }

  private finish(): void {
    const { step } = this;
    if (step)
      this.record({
        ...step,
        start_ms: Math.round(this.begunAt * 10) / 10,
        end_ms: Math.round((this.begunAt + tookMs(step)) * 10) / 10,
      });
    this.next();
  }

  private next(): void {
    this.index += 1;
    this.strayed = false;
    this.phase = this.step ? "ready" : "end";
  }
}
