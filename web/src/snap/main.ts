// The hand camera: shoot or choose, and the photo is in the job. Photos wait here until the server has acknowledged them.

import { newKey } from "../common/key";
import { unavailable } from "./camera";
import { turned } from "./mirror";
import { Guide } from "./live";
import { backoff, drop, keep, nextToTry, outcomeOf, waiting, type Waiting } from "./queue";

const EXPIRED =
  "This code has expired or was revoked. Open a new one from the bench and scan it; photos that wait here are kept.";

interface Sent {
  key: string;
  name: string;
  status: string;
  pattern: string | null;
  problems: string[];
}
interface State {
  job: string;
  run: number;
  stage: string;
  pattern: string;
  patterns: string[];
  photos: Sent[];
  closed: boolean;
}

const base = location.pathname.replace(/\/$/, "");
const code = base.slice(base.lastIndexOf("/") + 1);
const element = (id: string) => document.getElementById(id) as HTMLElement;
const pictures: Record<string, string> = {};
const progress: Record<string, number> = {};
const WORDS: Record<string, string> = {
  queued: "On the bench, waiting",
  reading: "Being read",
  read: "Read",
  refused: "Cannot be used",
  kept: "Kept in the job",
};
let state: State | null = null;
let queue: Waiting[] = [];
let sending = false;
let tries = 0;
let expired = false;
let moved = false;
let retryTimer = 0;

function message(text: string): void {
  element("message").textContent = text;
  element("message").hidden = !text;
}

function line(key: string, name: string, words: string, detail: string, share: number | null): HTMLLIElement {
  const item = document.createElement("li");
  item.dataset.key = key;
  const picture = document.createElement(pictures[key] ? "img" : "div");
  picture.className = "blank";
  if (pictures[key]) {
    (picture as HTMLImageElement).src = pictures[key];
    (picture as HTMLImageElement).alt = "";
  }
  const text = document.createElement("div");
  const head = document.createElement("b");
  head.textContent = words;
  const tail = document.createElement("span");
  tail.className = "quiet";
  tail.textContent = detail ? `${name}: ${detail}` : name;
  text.append(head, tail);
  if (share !== null) {
    const bar = document.createElement("progress");
    bar.max = 1;
    bar.value = share;
    bar.setAttribute("aria-label", `Sending ${name}`);
    text.append(bar);
  }
  item.append(picture, text);
  return item;
}

function draw(): void {
  const list = element("photos");
  const lines = queue.map((item) =>
    item.refused
      ? line(item.key, item.name, "Not taken", item.refused, null)
      : line(item.key, item.name, "Waiting here", item.why ?? "", progress[item.key] ?? 0),
  );
  const sent = state ? state.photos.slice().reverse() : [];
  lines.push(
    ...sent.map((photo) =>
      line(photo.key, photo.pattern ?? photo.name, WORDS[photo.status] ?? photo.status, photo.problems.join(" "), null),
    ),
  );
  list.replaceChildren(...lines);
  const open = queue.filter((item) => !item.refused).length;
  element("queue").textContent = open
    ? `${open} waiting${navigator.onLine ? "" : " for the network"}`
    : sent.length
      ? "All photos are on the bench."
      : "No photo yet.";
  if (state) {
    element("job").textContent = state.job;
    element("stage").textContent = state.stage;
    element("pattern").textContent = state.pattern || "Photograph the device itself";
    element("guided").hidden = !state.patterns.length || state.closed || !!unavailable();
    element("no-guide").hidden = !state.patterns.length || state.closed || !element("no-guide").textContent;
    if (state.closed) message("The job is handed over and closed; it takes no more photos.");
  }
}

function fetchState(): Promise<void> {
  return fetch(`${base}/state`)
    .then((answer) => {
      expired = answer.status === 410;
      if (expired) {
        message(EXPIRED);
        throw new Error("expired");
      }
      if (!answer.ok) throw new Error("away");
      return answer.json() as Promise<State>;
    })
    .then((fresh) => {
      if (state && state.run !== fresh.run) {
        guide.stop();
        message(`This page goes on at another stage: ${fresh.stage}.`);
        moved = true;
      }
      state = fresh;
      draw();
    });
}

interface Answer {
  status: number;
  detail: string;
  code: string;
}

function send(item: Waiting): Promise<Answer> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    const form = new FormData();
    form.append("photo", item.blob, item.name);
    if (item.run) form.append("run", String(item.run));
    request.open("POST", `${base}/photos`);
    request.setRequestHeader("Idempotency-Key", item.key);
    request.timeout = 120000;
    request.upload.onprogress = (event) => {
      progress[item.key] = event.total ? event.loaded / event.total : 0;
      draw();
    };
    request.onload = () => {
      let told: { detail?: string; type?: string } = {};
      try {
        told = JSON.parse(request.responseText) as typeof told;
      } catch {
        /* not ours: told by its status */
      }
      resolve({ status: request.status, detail: told.detail ?? "", code: (told.type ?? "").split("/").pop() ?? "" });
    };
    request.onerror = request.ontimeout = () => {
      resolve({ status: 0, detail: "", code: "" });
    };
    request.send(form);
  });
}

/** Send what waits, the least tried first. Its copy goes only after a final answer; one that fails keeps no other waiting. */
async function sendAll(): Promise<void> {
  if (sending) return;
  sending = true;
  clearTimeout(retryTimer);
  let failures = 0;
  try {
    for (let item = nextToTry(queue); item; item = nextToTry(queue)) {
      const answer = await send(item);
      const outcome = outcomeOf(answer.status, answer.code);
      if (outcome === "stored") {
        tries = 0;
        await drop(item.key);
        queue = queue.filter((other) => other !== item);
        await fetchState().catch(() => undefined);
      } else if (outcome === "refused") {
        item.refused = answer.detail || "The bench could not use it.";
        await drop(item.key);
      } else {
        if (answer.status === 410) message(EXPIRED);
        item.tries = (item.tries ?? 0) + 1;
        item.why = answer.detail;
        failures += 1;
        // all that waits was tried once: wait, and longer each time
        if (
          answer.status === 0 ||
          answer.status === 410 ||
          failures >= queue.filter((other) => !other.refused).length
        ) {
          tries += 1;
          retryTimer = window.setTimeout(() => {
            void sendAll();
          }, backoff(tries));
          break;
        }
      }
      draw();
    }
  } finally {
    sending = false;
    draw();
  }
}

/** A photo into the queue, kept over a reload where the browser can, and on its way. */
function add(blob: Blob, name: string): string {
  const item: Waiting = { key: newKey(), code, run: state?.run, name, blob, addedAt: Date.now() };
  pictures[item.key] = URL.createObjectURL(blob);
  queue.push(item);
  if (moved) message("");
  moved = false;
  void keep(item)
    .catch(() => {
      message(
        "This browser keeps no queue here (private window or full storage): stay on this page until all photos are sent.",
      );
    })
    .then(() => {
      draw();
      return sendAll();
    });
  return item.key;
}

/** Photos of a mirror: the panel in them is the wrong way round. */
const inMirror = new URLSearchParams(location.search).has("mirrored");

function take(input: HTMLInputElement): void {
  const files = Array.from(input.files ?? []);
  input.value = "";
  for (const file of files) {
    const name = file.name || "photo.jpg";
    if (!inMirror) add(file, name);
    else
      turned(file).then(
        (blob) => {
          add(blob, name);
        },
        () => {
          message(`${name} cannot be opened here, so it was not turned the right way round. Send it as JPEG.`);
        },
      );
  }
}

function step(move: number): Promise<void> {
  return fetch(`${base}/step`, { method: "POST", body: JSON.stringify({ move }) })
    .then(() => fetchState())
    .catch(() => {
      message("The network is away; the pattern did not change.");
    });
}

const guide = new Guide({
  base,
  patterns: () => state?.patterns ?? [],
  photos: () => [
    ...(state?.photos ?? []),
    ...queue
      .filter((item) => item.refused)
      .map((item) => ({ key: item.key, status: "refused", pattern: null, problems: [item.refused ?? ""] })),
  ],
  over: () => expired || Boolean(state?.closed),
  add,
  step,
});

function listen(): void {
  const source = new EventSource(`${base}/events`);
  source.addEventListener("hello", () => {
    void fetchState()
      .then(() => {
        // that it goes on elsewhere stands until the next photo
        if (!moved) message("");
        return sendAll();
      })
      .catch(() => undefined);
  });
  source.onmessage = () => {
    void fetchState().catch(() => undefined);
  };
  source.onerror = () => {
    if (source.readyState !== 2) return;
    // given up by the browser: the code was revoked, or the server is starting; the state says which
    fetchState().then(
      () => {
        setTimeout(listen, 2000);
      },
      (error: Error) => {
        setTimeout(listen, error.message === "expired" ? 15000 : 2000);
      },
    );
  };
}

for (const id of ["camera", "files"])
  element(id).addEventListener("change", (event) => {
    take(event.target as HTMLInputElement);
  });
element("no-guide").textContent = unavailable();
element("mirrored").hidden = !inMirror;
element("guided").addEventListener("click", () => {
  void guide.start().then((why) => {
    element("no-guide").textContent = why;
    draw();
  });
});
element("next").addEventListener("click", () => {
  void step(1);
});
element("previous").addEventListener("click", () => {
  void step(-1);
});
document.addEventListener("keydown", (event) => {
  if (guide.isOpen) {
    if (event.key === "Escape") guide.stop();
    return;
  }
  const move = ({ " ": 1, ArrowRight: 1, PageDown: 1, ArrowLeft: -1, PageUp: -1 } as Record<string, number>)[event.key];
  if (
    move &&
    (event.target as HTMLElement).tagName !== "INPUT" &&
    !(event.key === " " && (event.target as HTMLElement).tagName === "BUTTON")
  ) {
    event.preventDefault();
    void step(move);
  }
});
window.addEventListener("online", () => {
  tries = 0;
  void sendAll();
});
window.addEventListener("offline", draw);

void waiting(code)
  .then((kept) => {
    queue = kept;
    for (const item of kept) pictures[item.key] = URL.createObjectURL(item.blob);
  })
  .catch(() => undefined)
  .then(() => fetchState())
  .catch(() => {
    draw();
  })
  .then(() => {
    listen();
    void sendAll();
  });
