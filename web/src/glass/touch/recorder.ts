// A touch session on the glass: hears the fingers, moves the course on, draws, and sends what came.

import { Course, type Do, type Grid, type Step } from "./course";
import { Drawing, type Trail } from "./draw";
import { toPanel, viewOf, type Point, type View } from "./orient";
import { Outbox } from "./outbox";
import { listenTo, type Row } from "./samples";
import { wordsFor } from "./words";

export interface Told {
  session: number;
  panel: { width: number; height: number };
  grid: Grid;
  steps: Step[];
  done: string[];
  origin_ms: number | null;
  command: number;
  do: Do | null;
}
interface Host {
  base: string;
  canvas: HTMLCanvasElement;
  say: (text: string, stay: boolean) => void;
}

const FLUSH_MS = 400;
const MOST_ROWS = 1500;
const STUCK_MS = 6000;
const LAGS_KEPT = 600;
const FRAMES_KEPT = 10;

const zero = (): number => performance.timeOrigin || Date.now() - performance.now();
/** A time stamp of an event on the clock of the day; old browsers give that clock itself. */
const dayTime = (stamp: number): number => (stamp > 1e11 ? stamp : zero() + stamp);
const KEYS: Record<string, Do> = {
  " ": "go",
  ArrowRight: "go",
  PageDown: "go",
  Enter: "go",
  ArrowLeft: "back",
  PageUp: "back",
  x: "skip",
};

/** The session's zero, the same after a reload even if nothing has been sent yet. */
function originOf(told: Told): number {
  const key = `touch-origin-${told.session}`;
  let kept: string | null = null;
  try {
    kept = localStorage.getItem(key);
  } catch {
    /* storage is switched off: the server's word, or now */
  }
  const origin = told.origin_ms ?? (kept ? Number(kept) : dayTime(performance.now()));
  try {
    localStorage.setItem(key, String(origin));
  } catch {
    /* as above */
  }
  return origin;
}

export class Recorder {
  readonly session: number;
  private readonly course: Course;
  private readonly drawing: Drawing;
  private readonly outbox: Outbox;
  private readonly origin: number;
  private readonly stopHearing: () => void;
  private view: View | null = null;
  private rows: Row[] = [];
  private finished: Step[] = [];
  private fresh: Trail[] = [];
  private places = new Map<number, Point>();
  /** When the first touch came that the trail does not show yet, ms of the session; 0 when there is none. */
  private firstFresh = 0;
  private heardAt = 0;
  /** How far the trail was behind: frames since the page heard of the touch, the one that shows it included, and ms since the touch. */
  private lags: string[] = [];
  private starts: number[] = [];
  private seen = "";
  private words = "";
  private readyAt = 0;
  private command: number;
  private stopped = false;
  private readonly flushTimer: number;

  constructor(
    told: Told,
    private readonly host: Host,
  ) {
    this.session = told.session;
    this.command = told.command;
    this.origin = originOf(told);
    this.course = new Course(told.panel, told.grid, told.steps, told.done, (step) => {
      this.finished.push(step);
    });
    this.drawing = new Drawing(host.canvas);
    const code = host.base.slice(host.base.lastIndexOf("/") + 1);
    this.outbox = new Outbox(
      `${code}.${told.session}`,
      (part) =>
        fetch(`${host.base}/touch/${told.session}`, {
          method: "POST",
          body: JSON.stringify(part),
          headers: { "Content-Type": "application/json" },
        }).then((answer) => answer.status),
      (_, refused) => {
        if (refused) host.say("The bench did not take a part of this session. Start a new one there.", true);
      },
    );
    const ground = {
      toPanel: (x: number, y: number): Point => {
        const { canvas } = host;
        return this.view
          ? toPanel(this.view, (x * canvas.width) / canvas.clientWidth, (y * canvas.height) / canvas.clientHeight)
          : [-1, -1];
      },
      scale: () =>
        this.view
          ? (this.host.canvas.width / this.host.canvas.clientWidth) *
            ((this.view.turn % 180 ? this.view.panel.height : this.view.panel.width) / this.view.at.width)
          : 1,
      toTime: (stamp: number) => dayTime(stamp) - this.origin,
    };
    this.stopHearing = listenTo(window, ground, (rows) => {
      this.take(rows);
    });
    this.flushTimer = window.setInterval(() => {
      this.flush();
    }, FLUSH_MS);
    host.canvas.dataset.mode = "touch";
    this.resize();
    requestAnimationFrame(() => {
      this.frame();
    });
  }

  stop(): void {
    this.stopped = true;
    this.stopHearing();
    clearInterval(this.flushTimer);
    this.flush();
    this.host.say("", true);
    delete this.host.canvas.dataset.mode;
    this.host.canvas.classList.remove("lettered");
  }

  /** The session as the server has it now: more steps may have been asked for. */
  update(told: Told): void {
    this.course.extend(told.steps, told.done);
    // a command that was given while the live link was away
    if (told.do) this.obey(told.command, told.do);
  }

  key(key: string): boolean {
    const what = KEYS[key];
    if (what) this.do(what);
    return Boolean(what);
  }

  /** From the bench; each command counts once. */
  obey(number: number, what: Do): void {
    if (number <= this.command) return;
    this.command = number;
    this.do(what);
  }

  resize(): void {
    const { canvas } = this.host;
    const ratio = window.devicePixelRatio || 1;
    const size = { width: Math.round(canvas.clientWidth * ratio), height: Math.round(canvas.clientHeight * ratio) };
    const gap = {
      left: Math.max(0, window.screenX * ratio),
      top: Math.max(0, (window.screenY + window.outerHeight - window.innerHeight) * ratio),
    };
    const old = (window as { orientation?: number }).orientation;
    const angle = (screen.orientation as ScreenOrientation | undefined)?.angle ?? old ?? 0;
    this.view = viewOf(this.course.panel, size, angle, gap);
    this.drawing.lay(this.view, this.course, this.lettered ? this.words : "");
  }

  /** Something is to be drawn, now or next. */
  private get lettered(): boolean {
    const { step, phase } = this.course;
    return Boolean(step?.path.length) && (phase === "ready" || phase === "running");
  }

  private now(): number {
    return dayTime(performance.now()) - this.origin;
  }

  private do(what: Do): void {
    this.course.do(what, this.now());
    this.look();
  }

  private take(rows: Row[]): void {
    const { course } = this;
    const { step, phase } = course;
    if (!this.fresh.length && rows[0]) {
      this.firstFresh = rows[0][0];
      this.heardAt = this.now();
    }
    const tapped = phase === "ready" && step?.kind === "hands_off" && rows.some((row) => row[2] === "up");
    for (const [, id, ev, x, y] of rows) {
      if (x === null || y === null) continue;
      const before = this.places.get(id);
      if (ev === "up" || ev === "cancel") {
        this.places.delete(id);
        continue;
      }
      if (before && ev === "move") this.fresh.push({ from: before, to: [x, y] });
      else this.fresh.push({ from: [x, y], to: [x, y] });
      this.places.set(id, [x, y]);
      if (phase === "running" && step?.kind === "hands_off" && ev === "down") this.drawing.unasked([x, y], course);
    }
    this.rows.push(...rows);
    course.take(rows, this.now());
    // a tap begins the soak when the finger has left again
    if (tapped) this.do("go");
    if (this.rows.length >= MOST_ROWS) this.flush();
  }

  private frame(): void {
    if (this.stopped) return;
    const now = this.now();
    this.starts = [...this.starts.slice(-FRAMES_KEPT), now];
    this.course.tick(now);
    this.look();
    this.drawing.answered(this.course.fresh, this.course);
    this.course.fresh = [];
    if (this.fresh.length) {
      this.drawing.trail(this.fresh, this.course);
      this.fresh = [];
    } else this.firstFresh = 0;
    this.drawing.frame(this.course, now);
    if (this.firstFresh) {
      // from the first touch that was not drawn yet to the frame that shows it
      const frames = this.starts.filter((start) => start > this.heardAt).length;
      this.lags = [...this.lags.slice(1 - LAGS_KEPT), `${frames}:${(this.now() - this.firstFresh).toFixed(1)}`];
      this.host.canvas.dataset.trailLags = this.lags.join(" ");
      this.firstFresh = 0;
    }
    requestAnimationFrame(() => {
      this.frame();
    });
  }

  /** Draw, say and send anew whatever depends on the step and its phase. */
  private look(): void {
    const { course } = this;
    const now = performance.now();
    const place = `${course.index}.${course.phase}.${course.steps.length}`;
    const moved = !this.seen.startsWith(`${place} `);
    if (moved) this.readyAt = now;
    const words = wordsFor(course, this.outbox.waiting, now - this.readyAt > STUCK_MS);
    if (this.seen === `${place} ${words}`) return;
    this.seen = `${place} ${words}`;
    this.words = words;
    // a note would cover what is to be drawn: its words stand on the ground then, and the note is for ears only
    this.host.canvas.classList.toggle("lettered", this.lettered);
    this.host.say(words, true);
    if (this.view && (moved || course.phase === "ready"))
      this.drawing.lay(this.view, course, this.lettered ? words : "");
    if (!moved) return;
    this.host.canvas.dataset.touch = `${course.step?.id ?? "end"}.${course.phase}`;
    this.flush(true);
  }

  private flush(always = false): void {
    if (!this.rows.length && !this.finished.length && !always) return;
    const { course } = this;
    const now = {
      phase: course.phase,
      step: course.step?.id ?? null,
      index: course.index,
      count: course.steps.length,
      left: course.left,
      unasked: course.unasked,
      left_ms: Math.round(course.leftMs(this.now())),
    };
    this.outbox.add({ events: this.rows, steps: this.finished, origin_ms: this.origin, now });
    this.rows = [];
    this.finished = [];
  }
}
