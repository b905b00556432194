// The live picture of the guided camera: frames go small to the bench, its signs come back big, and good photos are taken by itself.

import { Watch, Course, type Told, type Verdict } from "./watch";

/** What the page gives: its photos as they stand, and a place for a new one. */
export interface Page {
  base: string;
  patterns(): string[];
  photos(): { key: string; status: string; pattern: string | null; problems: string[] }[];
  add(photo: Blob, name: string): string;
  step(move: number): Promise<void>;
}

interface Capture {
  takePhoto(settings?: object): Promise<Blob>;
  getPhotoCapabilities(): Promise<{ imageWidth?: { max?: number } }>;
}
type CaptureClass = new (track: MediaStreamTrack) => Capture;
interface More extends MediaTrackCapabilities {
  torch?: boolean;
  exposureCompensation?: { min: number; max: number; step: number };
}

const FRAME_PX = 1280;
const FRAME_QUALITY = 0.8;
const STILL_QUALITY = 0.95;
const PAUSE_MS = 60; // between an answer and the next frame: the phone stays cool, the bench answers others
const AWAY_MS = 1500;
const PHOTO_MS = 5000; // a camera that does not answer by then is asked no more; the frame itself is taken
const ADJUST_MS = 900;

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

/** Why there is no live picture here; empty when there may be one. */
export function unavailable(): string {
  if ("mediaDevices" in navigator) return "";
  return "The guided camera needs a secure address (https); browsers give no live picture to others. Shoot works here as well.";
}

const REFUSED: Record<string, string> = {
  NotAllowedError: "The browser does not give the camera to this page. Allow it in the address bar, or use Shoot.",
  NotFoundError: "There is no camera here. Use Shoot, or choose photos.",
  NotReadableError: "Another program holds the camera. Close it, or use Shoot.",
};

export class Guide {
  private stream: MediaStream | null = null;
  private capture: Capture | null = null;
  private stillLongSide = 0;
  private readonly video = element<HTMLVideoElement>("live");
  private readonly overlay = element<HTMLCanvasElement>("outline");
  private readonly frame = document.createElement("canvas");
  private readonly watch = new Watch();
  private course = new Course([], []);
  private running = 0;
  private shooting = false;
  private adjusted = 0;
  private compensation = 0;
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
      this.toggleTorch();
    });
    element<HTMLSelectElement>("guide-lens").addEventListener("change", (event) => {
      void this.open((event.target as HTMLSelectElement).value);
    });
  }

  get isOpen(): boolean {
    return this.running > 0;
  }

  /** Open the camera and begin. The sentence that says why not; empty when it runs. */
  async start(): Promise<string> {
    const why = unavailable() || (await this.open(""));
    if (why) return why;
    const read = this.page.photos().filter((photo) => photo.status !== "refused" && photo.pattern);
    this.course = new Course(
      this.page.patterns(),
      read.map((photo) => photo.pattern!),
    );
    element("guide").hidden = false;
    document.body.classList.add("guided");
    element("guide-shoot").focus();
    const turn = ++this.running;
    void this.loop(turn);
    return "";
  }

  stop(): void {
    this.running = 0;
    this.stream?.getTracks().forEach((track) => {
      track.stop();
    });
    this.stream = null;
    element("guide").hidden = true;
    document.body.classList.remove("guided");
    element("guided").focus();
  }

  private async open(device: string): Promise<string> {
    const wanted = device ? { deviceId: { exact: device } } : { facingMode: { ideal: "environment" } };
    try {
      const fresh = await navigator.mediaDevices.getUserMedia({
        video: { ...wanted, width: { ideal: 3840 }, height: { ideal: 2160 } },
      });
      this.stream?.getTracks().forEach((track) => {
        track.stop();
      });
      this.stream = fresh;
    } catch (error) {
      return REFUSED[(error as DOMException).name] ?? "The camera did not open. Use Shoot, or choose photos.";
    }
    this.video.srcObject = this.stream;
    await this.video.play().catch(() => undefined);
    const track = this.stream.getVideoTracks()[0]!;
    this.capture = null;
    this.stillLongSide = 0;
    const Class = (window as unknown as { ImageCapture?: CaptureClass }).ImageCapture;
    if (Class) {
      try {
        this.capture = new Class(track);
        this.stillLongSide = (await this.capture.getPhotoCapabilities()).imageWidth?.max ?? 0;
      } catch {
        this.capture = null;
      }
    }
    const can = (track.getCapabilities?.() ?? {}) as More;
    element("guide-torch").hidden = !can.torch;
    element("guide-torch").setAttribute("aria-pressed", "false");
    await this.listLenses(track);
    return "";
  }

  private async listLenses(track: MediaStreamTrack): Promise<void> {
    const devices = await navigator.mediaDevices.enumerateDevices().catch(() => []);
    const cameras = devices.filter((one) => one.kind === "videoinput");
    const select = element<HTMLSelectElement>("guide-lens");
    select.hidden = cameras.length < 2;
    select.replaceChildren(
      ...cameras.map((one, n) => {
        const option = document.createElement("option");
        option.value = one.deviceId;
        option.textContent = one.label || `Camera ${n + 1}`;
        option.selected = one.deviceId === track.getSettings().deviceId;
        return option;
      }),
    );
  }

  private toggleTorch(): void {
    const button = element("guide-torch");
    const on = button.getAttribute("aria-pressed") !== "true";
    void this.stream
      ?.getVideoTracks()[0]
      ?.applyConstraints({ advanced: [{ torch: on } as MediaTrackConstraintSet] })
      .then(() => {
        button.setAttribute("aria-pressed", String(on));
      })
      .catch(() => undefined);
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
    if (!this.course.left.length) {
      this.finish();
      return;
    }
    const told = await this.ask();
    if (this.running !== turn) return;
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
      if (this.compensation) this.setCompensation(0);
    }
    if (this.course.stepsFrom(told.pattern)) {
      await this.forward(told.pattern);
      return;
    }
    const verdict = this.watch.judge(told, performance.now(), Math.max(this.frame.width, this.frame.height));
    this.show(verdict);
    this.adjust(verdict.sign);
    if (verdict.shoot) await this.shoot(told);
  }

  /** One frame, reduced, to the bench; null when there was no answer. */
  private async ask(): Promise<Told | null> {
    const { videoWidth: width, videoHeight: height } = this.video;
    if (!width) return null;
    const factor = Math.min(1, FRAME_PX / Math.max(width, height));
    this.frame.width = Math.round(width * factor);
    this.frame.height = Math.round(height * factor);
    this.frame.getContext("2d")!.drawImage(this.video, 0, 0, this.frame.width, this.frame.height);
    const blob = await new Promise<Blob | null>((resolve) => {
      this.frame.toBlob(resolve, "image/jpeg", FRAME_QUALITY);
    });
    if (!blob) return null;
    const longSide = Math.max(this.stillLongSide, width, height);
    const still = longSide / Math.max(this.frame.width, this.frame.height);
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
    if (this.shooting || !this.stream) return;
    this.shooting = true;
    try {
      const photo = await this.still();
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

  /** The best picture that the browser gives: the camera's own photo, else the stream's frame at its full size. */
  private async still(): Promise<Blob | null> {
    if (this.capture) {
      const late = new Promise<Blob>((_, reject) => setTimeout(reject, PHOTO_MS));
      try {
        return await Promise.race([this.capture.takePhoto(), late]);
      } catch {
        this.capture = null;
        this.stillLongSide = 0;
      }
    }
    const canvas = document.createElement("canvas");
    canvas.width = this.video.videoWidth;
    canvas.height = this.video.videoHeight;
    canvas.getContext("2d")!.drawImage(this.video, 0, 0);
    return new Promise((resolve) => {
      canvas.toBlob(resolve, "image/jpeg", STILL_QUALITY);
    });
  }

  /** Where the browser lets the exposure be set, it is set; the sign stands meanwhile. */
  private adjust(sign: string): void {
    const way = sign === "darker" ? -1 : sign === "brighter" ? 1 : 0;
    if (!way || performance.now() - this.adjusted < ADJUST_MS) return;
    const range = ((this.stream?.getVideoTracks()[0]?.getCapabilities?.() ?? {}) as More).exposureCompensation;
    if (!range) return;
    const next = Math.max(range.min, Math.min(range.max, this.compensation + way * Math.max(range.step, 0.5)));
    if (next !== this.compensation) this.setCompensation(next);
  }

  private setCompensation(value: number): void {
    this.compensation = value;
    this.adjusted = performance.now();
    void this.stream
      ?.getVideoTracks()[0]
      ?.applyConstraints({ advanced: [{ exposureCompensation: value } as MediaTrackConstraintSet] })
      .catch(() => undefined);
  }

  private finish(): void {
    const waiting = this.course.waiting(this.page.photos());
    const count = this.course.patterns.length;
    this.drawOutline(null);
    this.say(
      "done",
      waiting ? "All shot" : "Done",
      waiting ? `${waiting} of ${count} are on their way or being read.` : "All photos are read. The bench has them.",
    );
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
