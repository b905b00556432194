// When the guided camera shoots by itself: what each frame was told, over time, without a camera and without a page.

export interface Told {
  sign: string;
  detail: string;
  may_stay: boolean;
  corners: [number, number][];
  at: [number, number] | null;
  px_per_px: number;
  pattern: string;
  title: string;
  step: number;
}

export interface Verdict {
  sign: string;
  detail: string;
  shoot: boolean;
}

/** After a new pattern the camera's automatics need a moment; a phone's exposure settles within half a second (common practice). */
const SETTLE_MS = 800;
/** What may be a fault of the panel, or cannot be done better, keeps no photo waiting for longer. */
const PATIENCE_MS = 6000;
const MOST_AGAIN = 2;
const STEADY_FRAMES = 2;
/** Of the frame's long side from one frame to the next: at ten frames a second a tenth of a second's shake blurs no panel pixel. */
const MOVED_SHARE = 0.006;

/** The largest way that a corner went, in shares of the frame's long side; infinite when there is nothing to compare. */
export function movedShare(now: [number, number][], before: [number, number][], longSide: number): number {
  if (now.length !== before.length || now.length === 0) return Infinity;
  return Math.max(...now.map(([x, y], n) => Math.hypot(x - before[n]![0], y - before[n]![1]))) / longSide;
}

export class Watch {
  private step = -1;
  private since = 0;
  private steady = 0;
  private staysSince: number | null = null;
  private corners: [number, number][] = [];

  /** What to say of a frame, and whether this is the moment. `now` in ms, `longSide` of the frame in px. */
  judge(told: Told, now: number, longSide: number): Verdict {
    if (told.step !== this.step) {
      this.step = told.step;
      this.since = now;
      this.forget();
    }
    const moved = movedShare(told.corners, this.corners, longSide);
    this.corners = told.corners;
    const good = told.sign === "good";
    if (!good && !told.may_stay) {
      this.forget();
      return { sign: told.sign, detail: told.detail, shoot: false };
    }
    if (moved > MOVED_SHARE) {
      this.steady = 0;
      return good
        ? { sign: "moving", detail: "Hold still.", shoot: false }
        : { sign: told.sign, detail: told.detail, shoot: false };
    }
    this.steady += 1;
    if (good) this.staysSince = null;
    else this.staysSince = this.staysSince ?? now;
    const ready = good || (this.staysSince !== null && now - this.staysSince >= PATIENCE_MS);
    const shoot = ready && this.steady >= STEADY_FRAMES && now - this.since >= SETTLE_MS;
    return { sign: told.sign, detail: told.detail, shoot };
  }

  /** After a photo, or when the picture was lost. */
  forget(): void {
    this.steady = 0;
    this.staysSince = null;
    this.corners = [];
  }
}

/** Which patterns of a set are still to be shot, in its order, and how each photo ended. */
export class Course {
  private readonly shot = new Map<string, string>();
  private readonly tries: Record<string, number> = {};
  private readonly done: Set<string>;

  /** `read`: patterns that have a good photo. When that is all of them, all are shot anew. */
  constructor(
    readonly patterns: string[],
    read: string[],
  ) {
    const have = new Set(read.filter((id) => patterns.includes(id)));
    this.done = have.size === patterns.length ? new Set() : have;
  }

  get left(): string[] {
    return this.patterns.filter((id) => !this.done.has(id));
  }

  /** A photo of a pattern was taken and is sent under this key. */
  took(pattern: string, key: string): void {
    this.done.add(pattern);
    this.shot.set(key, pattern);
  }

  /** Photos of this course that the bench refused: their patterns are shot again, twice at most (`lost` names them then). The last reason, if any. */
  refused(photos: { key: string; status: string; problems: string[] }[]): string {
    let why = "";
    for (const photo of photos) {
      const pattern = this.shot.get(photo.key);
      if (!pattern || photo.status !== "refused") continue;
      this.shot.delete(photo.key);
      this.tries[pattern] = (this.tries[pattern] ?? 0) + 1;
      if (this.tries[pattern] <= MOST_AGAIN) this.done.delete(pattern);
      why = photo.problems.join(" ");
    }
    return why;
  }

  /** Patterns of which no photo could be used, however often they were shot. */
  get lost(): string[] {
    return this.patterns.filter((id) => (this.tries[id] ?? 0) > MOST_AGAIN && ![...this.shot.values()].includes(id));
  }

  /** How many of this course's photos are not read yet. */
  waiting(photos: { key: string; status: string }[]): number {
    const settled = new Set(
      photos.filter((photo) => photo.status === "read" || photo.status === "kept").map((photo) => photo.key),
    );
    return [...this.shot.keys()].filter((key) => !settled.has(key)).length;
  }

  /** Steps forward from the shown pattern to the next that is wanted; 0 when it is wanted itself or none is. */
  stepsFrom(shown: string): number {
    const left = this.left;
    const at = this.patterns.indexOf(shown);
    for (let move = 0; left.length && move < this.patterns.length; move += 1)
      if (left.includes(this.patterns[(at + move + this.patterns.length) % this.patterns.length]!)) return move;
    return 0;
  }
}
