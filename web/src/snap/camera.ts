// The phone's camera as the browser gives it: a live picture, photos at their full size, and what can be set on it.

interface Capture {
  takePhoto(settings?: object): Promise<Blob>;
  getPhotoCapabilities(): Promise<{ imageWidth?: { max?: number } }>;
}
type CaptureClass = new (track: MediaStreamTrack) => Capture;
interface More extends MediaTrackCapabilities {
  torch?: boolean;
  exposureCompensation?: { min: number; max: number; step: number };
}
export interface Lens {
  id: string;
  name: string;
  chosen: boolean;
}

const STILL_QUALITY = 0.95;
const PHOTO_MS = 5000; // a camera that does not answer by then is asked no more; the frame itself is taken
const ADJUST_MS = 900; // until the automatics have followed
const LEAST_STEP_EV = 0.5;

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

export class Camera {
  private stream: MediaStream | null = null;
  private capture: Capture | null = null;
  private photoLongSide = 0;
  private adjusted = 0;
  private compensation = 0;

  constructor(private readonly video: HTMLVideoElement) {}

  get isOpen(): boolean {
    return this.stream !== null;
  }

  /** Pixels along the long side of the photo that will be taken. */
  get stillLongSide(): number {
    return Math.max(this.photoLongSide, this.video.videoWidth, this.video.videoHeight);
  }

  /** Open the main camera, or the one named. The sentence that says why not; empty when its picture runs. */
  async open(lens: string): Promise<string> {
    const wanted = lens ? { deviceId: { exact: lens } } : { facingMode: { ideal: "environment" } };
    try {
      const fresh = await navigator.mediaDevices.getUserMedia({
        video: { ...wanted, width: { ideal: 3840 }, height: { ideal: 2160 } },
      });
      this.close();
      this.stream = fresh;
    } catch (error) {
      return REFUSED[(error as DOMException).name] ?? "The camera did not open. Use Shoot, or choose photos.";
    }
    this.video.srcObject = this.stream;
    await this.video.play().catch(() => undefined);
    const Class = (window as unknown as { ImageCapture?: CaptureClass }).ImageCapture;
    if (Class && this.track) {
      try {
        this.capture = new Class(this.track);
        this.photoLongSide = (await this.capture.getPhotoCapabilities()).imageWidth?.max ?? 0;
      } catch {
        this.capture = null;
      }
    }
    return "";
  }

  close(): void {
    this.stream?.getTracks().forEach((track) => {
      track.stop();
    });
    this.stream = this.capture = null;
    this.photoLongSide = this.compensation = 0;
  }

  private get track(): MediaStreamTrack | undefined {
    return this.stream?.getVideoTracks()[0];
  }

  private get can(): More {
    return this.track?.getCapabilities?.() ?? {};
  }

  private set(values: object): Promise<boolean> {
    const done = this.track?.applyConstraints({ advanced: [values] });
    return (done ?? Promise.reject(new Error("closed"))).then(
      () => true,
      () => false,
    );
  }

  get hasTorch(): boolean {
    return Boolean(this.can.torch);
  }

  torch(on: boolean): Promise<boolean> {
    return this.set({ torch: on });
  }

  /** The cameras of this phone. */
  async lenses(): Promise<Lens[]> {
    const devices = await navigator.mediaDevices.enumerateDevices().catch(() => []);
    const own = this.track?.getSettings().deviceId;
    return devices
      .filter((one) => one.kind === "videoinput")
      .map((one, n) => ({ id: one.deviceId, name: one.label || `Camera ${n + 1}`, chosen: one.deviceId === own }));
  }

  /** Where the browser lets the exposure be set, darker (-1), brighter (1) or as the automatics have it (0). */
  expose(way: -1 | 0 | 1): void {
    const range = this.can.exposureCompensation;
    if (!range || (way && performance.now() - this.adjusted < ADJUST_MS)) return;
    const wanted = way ? this.compensation + way * Math.max(range.step, LEAST_STEP_EV) : 0;
    const next = Math.max(range.min, Math.min(range.max, wanted));
    if (next === this.compensation) return;
    this.compensation = next;
    this.adjusted = performance.now();
    void this.set({ exposureCompensation: next });
  }

  /** The best picture that the browser gives: the camera's own photo, else the stream's frame at its full size. */
  async still(): Promise<Blob | null> {
    if (this.capture) {
      const late = new Promise<Blob>((_, reject) => setTimeout(reject, PHOTO_MS));
      try {
        return await Promise.race([this.capture.takePhoto(), late]);
      } catch {
        this.capture = null;
        this.photoLongSide = 0;
      }
    }
    return jpegOf(this.video, document.createElement("canvas"), 1, STILL_QUALITY);
  }
}

/** The picture that a video shows, `factor` of its size, drawn on a canvas and coded; null where there is none yet. */
export function jpegOf(
  video: HTMLVideoElement,
  canvas: HTMLCanvasElement,
  factor: number,
  quality: number,
): Promise<Blob | null> {
  if (!video.videoWidth) return Promise.resolve(null);
  canvas.width = Math.round(video.videoWidth * factor);
  canvas.height = Math.round(video.videoHeight * factor);
  canvas.getContext("2d")!.drawImage(video, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve) => {
    canvas.toBlob(resolve, "image/jpeg", quality);
  });
}
