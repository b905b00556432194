// The guided camera: frames go small to the bench, its signs come back big, and good photos are taken by themselves.

import { Camera, jpegOf } from "./camera";
import { Course, Watch, type Told, type Verdict } from "./watch";

/** What the page gives: its photos as they stand, and a place for a new one. `over`: no photo can be taken in any more. */
export interface Page {
  base: string;
  patterns(): string[];
  photos(): { key: string; status: string; pattern: string | null; problems: string[] }[];
  over(): boolean;
  add(photo: Blob, name: string): string;
  step(move: number): Promise<void>;
}

const FRAME_PX = 1280;
const FRAME_QUALITY = 0.8;
const PAUSE_MS = 60; // between an answer and the next frame: the phone stays cool, the bench answers others
const AWAY_MS = 1500;

const TITLES: Record<string, string> = {
  no_panel: "Show the panel",
  too_dark: "Nothing is lit",
  other_pattern: "Wait",
  other_inspection: "Wrong patterns",
  cut_off: "Step back",
  closer: "Closer",
  tilted: "Hold parallel",
  brighter: "Too dark",
  darker: "Too bright",
  reflection: "Reflection",
  blurred: "Not sharp",
  moving: "Hold still",
  good: "Good",
  away: "No answer",
};

const element = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;

export class Guide {
  private readonly video = element<HTMLVideoElement>("live");
  private readonly camera = new Camera(this.video);
  private readonly overlay = element<HTMLCanvasElement>("outline");
  private readonly frame = document.createElement("canvas");
  private readonly watch = new Watch();
  private course = new Course([], []);
  private running = 0;
  private shooting = false;
  private shots = 0;
  private lastStep = -1;
  private last: Told | null = null;

  constructor(private readonly page: Page) {
    element("guide-stop").addEventListener("click", () => {
      this.stop();
    });
    element("guide-shoot").addEventListener("click", () => {
      if (this.last) void this.shoot(this.last);
    });
    element("guide-torch").addEventListener("click", () => {
      void this.toggleTorch();
    });
    element<HTMLSelectElement>("guide-lens").addEventListener("change", (event) => {
      void this.open((event.target as HTMLSelectElement).value).then((why) => {
        this.note(why);
      });
    });
  }

  get isOpen(): boolean {
    return this.running > 0;
  }

  /** Open the camera and begin. The sentence that says why not; empty when it runs. */
  async start(): Promise<string> {
    const why = await this.open("");
    if (why) return why;
    const read = this.page.photos().filter((photo) => photo.status !== "refused" && photo.pattern);
    // what was shot before the last stop may still be on its way
    const shot = this.course.patterns.filter((id) => !this.course.left.includes(id));
    this.course = new Course(this.page.patterns(), [...read.map((photo) => photo.pattern!), ...shot]);
    this.note("");
    element("guide").hidden = false;
    document.body.classList.add("guided");
    element("guide-shoot").focus();
    const turn = ++this.running;
    void this.loop(turn);
    return "";
  }

  stop(): void {
    this.running = 0;
    this.camera.close();
    element("guide").hidden = true;
    document.body.classList.remove("guided");
    element("guided").focus();
  }

  private async open(lens: string): Promise<string> {
    const why = await this.camera.open(lens);
    if (why) return why;
    element("guide-torch").hidden = !this.camera.hasTorch;
    element("guide-torch").setAttribute("aria-pressed", "false");
    const lenses = await this.camera.lenses();
    const select = element<HTMLSelectElement>("guide-lens");
    select.hidden = lenses.length < 2;
    select.replaceChildren(
      ...lenses.map((one) => {
        const option = document.createElement("option");
        option.value = one.id;
        option.textContent = one.name;
        option.selected = one.chosen;
        return option;
      }),
    );
    return "";
  }

  private async toggleTorch(): Promise<void> {
    const button = element("guide-torch");
    const on = button.getAttribute("aria-pressed") !== "true";
    if (await this.camera.torch(on)) button.setAttribute("aria-pressed", String(on));
  }

  private async loop(turn: number): Promise<void> {
    while (this.running === turn) {
      const started = performance.now();
      if (!this.shooting) await this.once(turn);
      const pause = document.hidden ? AWAY_MS : PAUSE_MS;
      await new Promise((resolve) => setTimeout(resolve, pause));
      element("guide").dataset.frameMs = String(Math.round(performance.now() - started - pause));
    }
  }

  private async once(turn: number): Promise<void> {
    const why = this.course.refused(this.page.photos());
    if (why) this.note(`One photo could not be used and is shot again: ${why}`);
    if (this.page.over()) {
      this.stop();
      return;
    }
    if (!this.course.left.length) {
      this.finish();
      return;
    }
    const shots = this.shots;
    const told = await this.ask();
    // a photo that was taken meanwhile has moved on from what this frame showed
    if (this.running !== turn || this.shooting || this.shots !== shots) return;
    if (!told) {
      this.watch.forget();
      this.show({
        sign: "away",
        detail: "The bench does not answer. It is asked again; photos are kept.",
        shoot: false,
      });
      await new Promise((resolve) => setTimeout(resolve, AWAY_MS));
      return;
    }
    this.last = told;
    if (told.step !== this.lastStep) {
      this.lastStep = told.step;
      this.camera.expose(0);
    }
    if (this.course.stepsFrom(told.pattern)) {
      await this.forward(told.pattern);
      return;
    }
    const verdict = this.watch.judge(told, performance.now(), Math.max(this.frame.width, this.frame.height));
    this.show(verdict);
    if (verdict.sign === "darker") this.camera.expose(-1);
    if (verdict.sign === "brighter") this.camera.expose(1);
    if (verdict.shoot) await this.shoot(told);
  }

  /** One frame, reduced, to the bench; null when there was no answer. */
  private async ask(): Promise<Told | null> {
    const factor = Math.min(1, FRAME_PX / Math.max(this.video.videoWidth, this.video.videoHeight));
    const blob = await jpegOf(this.video, this.frame, factor, FRAME_QUALITY);
    if (!blob) return null;
    const still = this.camera.stillLongSide / Math.max(this.frame.width, this.frame.height);
    try {
      const answer = await fetch(`${this.page.base}/frame?still=${still.toFixed(2)}`, {
        method: "POST",
        body: blob,
        headers: { "Content-Type": "image/jpeg" },
      });
      return answer.ok ? ((await answer.json()) as Told) : null;
    } catch {
      return null;
    }
  }

  private async shoot(told: Told): Promise<void> {
    if (this.shooting || !this.camera.isOpen) return;
    this.shooting = true;
    this.shots += 1;
    try {
      const photo = await this.camera.still();
      if (!photo) return;
      navigator.vibrate?.(40);
      element("guide").classList.add("flash");
      setTimeout(() => {
        element("guide").classList.remove("flash");
      }, 150);
      this.course.took(told.pattern, this.page.add(photo, `${told.pattern}.jpg`));
      this.watch.forget();
      this.last = null;
      this.say("next", "Next", "The device changes its picture.");
      this.drawOutline(null);
      this.progress();
      if (this.course.left.length) await this.forward(told.pattern);
    } finally {
      this.shooting = false;
    }
  }

  private async forward(shown: string): Promise<void> {
    for (let moves = this.course.stepsFrom(shown); moves > 0; moves -= 1) await this.page.step(1);
  }

  private finish(): void {
    const waiting = this.course.waiting(this.page.photos());
    const count = this.course.patterns.length;
    const lost = this.course.lost;
    this.drawOutline(null);
    if (waiting) this.say("done", "All shot", `${waiting} of ${count} are on their way or being read.`);
    else if (lost.length)
      this.say("lost", "Not all", `No photo of ${lost.join(", ")} could be used. Stop, and see why.`);
    else this.say("done", "Done", "All photos are read. The bench has them.");
    this.progress();
  }

  private show(verdict: Verdict): void {
    this.say(verdict.sign, TITLES[verdict.sign] ?? verdict.sign, verdict.detail);
    this.progress();
    this.drawOutline(this.last);
  }

  private say(sign: string, title: string, detail: string): void {
    const box = element("sign");
    if (box.dataset.sign !== sign) {
      box.dataset.sign = sign;
      element("sign-title").textContent = title;
    }
    element("sign-detail").textContent = detail;
  }

  private note(text: string): void {
    element("guide-note").textContent = text;
  }

  private progress(): void {
    const count = this.course.patterns.length;
    const done = count - this.course.left.length;
    const title = this.last && this.course.left.length ? `${this.last.title} · ` : "";
    element("guide-count").textContent = `${title}${done} of ${count} shot`;
    const bar = element<HTMLProgressElement>("guide-bar");
    bar.max = count;
    bar.value = done;
  }

  /** The panel's outline where the bench found it, and a ring where something is mirrored. */
  private drawOutline(told: Told | null): void {
    const { width, height } = this.frame;
    this.overlay.width = width;
    this.overlay.height = height;
    const context = this.overlay.getContext("2d")!;
    context.clearRect(0, 0, width, height);
    if (!told || told.corners.length !== 4) return;
    context.lineWidth = Math.max(3, width / 250);
    context.strokeStyle = "#fff";
    context.setLineDash(told.sign === "good" ? [] : [width / 60, width / 90]);
    context.beginPath();
    told.corners.forEach(([x, y], n) => {
      if (n) context.lineTo(x, y);
      else context.moveTo(x, y);
    });
    context.closePath();
    context.stroke();
    if (!told.at) return;
    const [u, v] = told.at;
    const [a, b, c, d] = told.corners as [[number, number], [number, number], [number, number], [number, number]];
    const mix = (i: 0 | 1) => (1 - v) * ((1 - u) * a[i] + u * b[i]) + v * ((1 - u) * d[i] + u * c[i]);
    context.setLineDash([]);
    context.beginPath();
    context.arc(mix(0), mix(1), width / 18, 0, 2 * Math.PI);
    context.stroke();
  }
}
