// The page that the device under test opens: it paints the core's patterns pixel for pixel and says what it really has.
// Plain script; it works on with what it holds when the link drops, and catches up when it is back.

import { place, type Placement } from "./placement";
import type { Do } from "./touch/course";
import { Recorder, type Told } from "./touch/recorder";

interface State {
  run: number;
  panel: { width: number; height: number };
  pattern: string;
  step: number;
  patterns: string[];
  job: string;
  stage: string;
}
type Drawable = ImageBitmap | HTMLImageElement;

const base = location.pathname.replace(/\/$/, "");
const canvas = document.getElementById("screen") as HTMLCanvasElement;
const note = document.getElementById("note") as HTMLElement;
let pictures: Record<string, Drawable> = {};
const NOTE_MS = 6000;
let state: State | null = null;
let recorder: Recorder | null = null;
let painted = -1;
let placement: Placement | null = null;
let noteTimer = 0;
let reportTimer = 0;
let awake = false;
let reported = "";
let touchAsked = 0;
let touchHeard = 0;

function say(text: string, stay: boolean): void {
  clearTimeout(noteTimer);
  note.textContent = text;
  note.hidden = !text;
  // a note must not stand in the photos
  if (text && !stay)
    noteTimer = window.setTimeout(() => {
      note.hidden = true;
    }, NOTE_MS);
}

function post(path: string, body: object): void {
  const text = JSON.stringify(body);
  fetch(base + path, {
    method: "POST",
    body: text,
    headers: { "Content-Type": "application/json" },
    keepalive: true,
  }).catch(() => {
    /* the next report says it again */
  });
}

function load(id: string): Promise<Drawable> {
  const known = pictures[id];
  if (known) return Promise.resolve(known);
  // the markers are the run's own, the size the panel's: what was kept for others is another picture
  const run = state ? state.run : 0;
  const size = state ? `${state.panel.width}x${state.panel.height}` : "";
  return fetch(`${base}/${id}.png?run=${run}&size=${size}`)
    .then((answer) => {
      if (!answer.ok) throw new Error(String(answer.status));
      return answer.blob();
    })
    .then(decode)
    .then((picture) => {
      if (state && state.run === run) pictures[id] = picture;
      return picture;
    });
}

function decode(blob: Blob): Promise<Drawable> {
  const whole = (window as { createImageBitmap?: typeof createImageBitmap }).createImageBitmap;
  // colours must reach the panel as they are
  if (whole) return whole(blob, { colorSpaceConversion: "none" }).catch(() => whole(blob));
  return new Promise<Drawable>((resolve, reject) => {
    const image = new Image();
    image.onload = () => {
      resolve(image);
    };
    image.onerror = () => {
      reject(new Error("picture"));
    };
    image.src = URL.createObjectURL(blob);
  });
}

function fullScreen(): boolean {
  return !!document.fullscreenElement || (window.innerHeight === screen.height && window.innerWidth === screen.width);
}

function paint(): void {
  if (!state || !placement || recorder) return;
  const picture = pictures[state.pattern];
  const context = canvas.getContext("2d", { alpha: false });
  if (!picture || !context) return;
  if (canvas.width !== placement.canvasWidth || canvas.height !== placement.canvasHeight) {
    canvas.width = placement.canvasWidth;
    canvas.height = placement.canvasHeight;
  }
  context.imageSmoothingEnabled = false;
  context.drawImage(picture, placement.x, placement.y, placement.width, placement.height);
  if (painted !== state.step) {
    painted = state.step;
    const step = state.step;
    requestAnimationFrame(() => {
      canvas.dataset.step = String(step);
      canvas.dataset.paintedAt = String(Date.now());
    });
  }
  reportSoon();
}

/** Say what this screen is, once and whenever it changes. */
function reportSoon(): void {
  clearTimeout(reportTimer);
  reportTimer = window.setTimeout(() => {
    if (!placement) return;
    const report = {
      canvas_width: placement.canvasWidth,
      canvas_height: placement.canvasHeight,
      ratio: window.devicePixelRatio || 1,
      touch_points: navigator.maxTouchPoints || 0,
      rim_px: placement.rim,
      full_screen: fullScreen(),
      exact: placement.exact,
      awake,
    };
    const text = JSON.stringify(report);
    if (text !== reported) post("/report", report);
    reported = text;
  }, 150);
}

function show(): void {
  if (!state) return;
  const step = state.step;
  load(state.pattern)
    .then(() => {
      if (state && state.step === step) paint();
    })
    .catch(() => {
      say("The pattern did not arrive. It is tried again.", false);
      setTimeout(show, 1500);
    });
}

function measure(width: number, height: number): void {
  if (!state) return;
  const ratio = window.devicePixelRatio || 1;
  const gap = {
    left: Math.max(0, window.screenX * ratio),
    top: Math.max(0, (window.screenY + window.outerHeight - window.innerHeight) * ratio),
  };
  placement = place(state.panel, { width, height }, gap);
  if (recorder) recorder.resize();
  else if (!placement.exact) say(placement.warning, false);
  paint();
}

function watchSize(): void {
  const byRatio = () => {
    const ratio = window.devicePixelRatio || 1;
    measure(Math.round(canvas.clientWidth * ratio), Math.round(canvas.clientHeight * ratio));
  };
  if (!window.ResizeObserver) {
    window.addEventListener("resize", byRatio);
    byRatio();
    return;
  }
  const observer = new ResizeObserver((entries) => {
    const entry = entries[0];
    const box = entry && entry.devicePixelContentBoxSize ? entry.devicePixelContentBoxSize[0] : undefined;
    if (box) measure(box.inlineSize, box.blockSize);
    else byRatio();
  });
  try {
    observer.observe(canvas, { box: "device-pixel-content-box" });
  } catch {
    observer.observe(canvas);
  }
}

function catchUp(): Promise<void> {
  return fetch(base + "/state")
    .then((answer) => {
      if (answer.status === 410) {
        say("This code has expired or was revoked. Open a new one from the bench and type or scan it again.", true);
        throw new Error("expired");
      }
      if (!answer.ok) throw new Error("away");
      return answer.json() as Promise<State>;
    })
    .then((fresh) => {
      const first = state === null;
      const before = state;
      const moved = before !== null && before.run !== fresh.run;
      const resized =
        before !== null && (before.panel.width !== fresh.panel.width || before.panel.height !== fresh.panel.height);
      if (moved || resized) {
        pictures = {};
        painted = -1;
        reported = "";
        state = null;
      }
      if (moved) say(`Now: ${fresh.stage}.`, false);
      // the answer may be older than a pattern that was told while it was on its way
      if (state && state.step > fresh.step) fresh = { ...fresh, pattern: state.pattern, step: state.step };
      state = fresh;
      if (first) {
        watchSize();
        say(
          fullScreen()
            ? "Space or right arrow: next pattern."
            : "F11, F or a tap: full screen. Space or right arrow: next pattern.",
          false,
        );
        void fresh.patterns.reduce(
          (chain, id) =>
            chain
              .then(() => load(id))
              .then(
                () => undefined,
                () => undefined,
              ),
          Promise.resolve(),
        );
      }
      if (resized && placement) measure(placement.canvasWidth, placement.canvasHeight);
      else if (moved) reportSoon();
      show();
      return touchState();
    });
}

/** Whether the bench asks for a touch session: then the glass records, else it shows patterns. */
function touchState(): Promise<void> {
  const asked = ++touchAsked;
  return fetch(base + "/touch")
    .then((answer) => {
      if (!answer.ok) throw new Error("away");
      return answer.json() as Promise<Told | { session: null }>;
    })
    .then((told) => {
      if (asked < touchHeard) return; // a later question was answered first
      touchHeard = asked;
      if (recorder && recorder.session !== told.session) {
        recorder.stop();
        recorder = null;
        delete canvas.dataset.touch;
        painted = -1;
        show();
      }
      if (told.session === null) return;
      if (recorder) recorder.update(told);
      else recorder = new Recorder(told, { base, canvas, say });
    });
}

function listen(): void {
  const source = new EventSource(base + "/events");
  source.addEventListener("hello", () => {
    void catchUp().catch(() => undefined);
  });
  source.onmessage = (event: MessageEvent<string>) => {
    const told = JSON.parse(event.data) as { what: string; pattern?: string; step?: number; number?: number; do?: Do };
    if (told.what === "pattern" && state && told.pattern && told.step !== undefined) {
      if (told.step > state.step) {
        state.pattern = told.pattern;
        state.step = told.step;
        if (!recorder) note.hidden = true;
        show();
      }
    } else if (told.what === "touch") {
      void touchState().catch(() => undefined);
    } else if (told.what === "touch_command") {
      if (recorder && told.number && told.do) recorder.obey(told.number, told.do);
    } else if (told.what === "run" || told.what === "reload") {
      void catchUp().catch(() => undefined);
    }
  };
  source.onerror = () => {
    if (source.readyState !== 2) return;
    // given up by the browser: the code was revoked, or the server is starting; the state says which
    catchUp().then(
      () => {
        setTimeout(listen, 1500);
      },
      (error: Error) => {
        setTimeout(listen, error.message === "expired" ? 15000 : 1500);
      },
    );
  };
}

function goFullScreen(): void {
  const root = document.documentElement as HTMLElement & { webkitRequestFullscreen?: () => void };
  if (document.fullscreenElement) return;
  if (root.requestFullscreen) root.requestFullscreen({ navigationUI: "hide" }).catch(() => undefined);
  else if (root.webkitRequestFullscreen) root.webkitRequestFullscreen();
}

function stayAwake(): void {
  if (!("wakeLock" in navigator) || document.hidden) return;
  navigator.wakeLock
    .request("screen")
    .then((lock) => {
      awake = true;
      reportSoon();
      lock.addEventListener("release", () => {
        awake = false;
        reportSoon();
      });
    })
    .catch(() => undefined);
}

document.addEventListener("keydown", (event) => {
  if (recorder && recorder.key(event.key)) {
    event.preventDefault();
    return;
  }
  const move = ({ " ": 1, ArrowRight: 1, PageDown: 1, ArrowLeft: -1, PageUp: -1 } as Record<string, number>)[event.key];
  if (move) {
    event.preventDefault();
    post("/step", { move });
  } else if (event.key === "f" || event.key === "F") goFullScreen();
});
document.addEventListener("click", goFullScreen);
document.addEventListener("contextmenu", (event) => {
  event.preventDefault();
});
document.addEventListener("visibilitychange", stayAwake);
stayAwake();
catchUp().then(listen, (error: Error) => {
  if (error.message !== "expired") {
    say("The bench does not answer. It is tried again.", true);
    setTimeout(() => {
      location.reload();
    }, 4000);
  }
});
