// The hand camera: shoot or choose, and the photo is in the job. Photos wait here until the server has acknowledged them.

import { newKey } from "../common/key";
import { backoff, drop, keep, waiting, type Waiting } from "./queue";

interface Sent { key: string; name: string; status: string; pattern: string | null; problems: string[] }
interface State { job: string; stage: string; pattern: string; photos: Sent[]; closed: boolean }

const base = location.pathname.replace(/\/$/, "");
const code = base.slice(base.lastIndexOf("/") + 1);
const element = (id: string) => document.getElementById(id) as HTMLElement;
const pictures: Record<string, string> = {};
const progress: Record<string, number> = {};
const WORDS: Record<string, string> = { queued: "On the bench, waiting", reading: "Being read", read: "Read", refused: "Cannot be used", kept: "Kept in the job" };
let state: State | null = null;
let queue: Waiting[] = [];
let sending = false;
let tries = 0;
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
  if (pictures[key]) { (picture as HTMLImageElement).src = pictures[key]; (picture as HTMLImageElement).alt = ""; }
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
  const lines = queue.map((item) => item.refused
    ? line(item.key, item.name, "Not taken", item.refused, null)
    : line(item.key, item.name, "Waiting here", "", progress[item.key] ?? 0));
  const sent = state ? state.photos.slice().reverse() : [];
  lines.push(...sent.map((photo) => line(photo.key, photo.pattern ?? photo.name, WORDS[photo.status] ?? photo.status, photo.problems.join(" "), null)));
  list.replaceChildren(...lines);
  const open = queue.filter((item) => !item.refused).length;
  element("queue").textContent = open ? `${open} waiting${navigator.onLine ? "" : " for the network"}` : sent.length ? "All photos are on the bench." : "No photo yet.";
  if (state) {
    element("job").textContent = state.job;
    element("stage").textContent = state.stage;
    element("pattern").textContent = state.pattern || "Photograph the device itself";
    if (state.closed) message("The job is handed over and closed; it takes no more photos.");
  }
}

function fetchState(): Promise<void> {
  return fetch(`${base}/state`).then((answer) => {
    if (answer.status === 410) {
      message("This code has expired. Open a new one from the bench and scan it; photos that wait here are kept.");
      throw new Error("expired");
    }
    return answer.json() as Promise<State>;
  }).then((fresh) => { state = fresh; draw(); });
}

function send(item: Waiting): Promise<{ status: number; detail: string }> {
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    const form = new FormData();
    form.append("photo", item.blob, item.name);
    request.open("POST", `${base}/photos`);
    request.setRequestHeader("Idempotency-Key", item.key);
    request.timeout = 120000;
    request.upload.onprogress = (event) => { progress[item.key] = event.total ? event.loaded / event.total : 0; draw(); };
    request.onload = () => {
      let detail = "";
      try { detail = (JSON.parse(request.responseText) as { detail?: string }).detail ?? ""; } catch { detail = ""; }
      resolve({ status: request.status, detail });
    };
    request.onerror = request.ontimeout = () => { resolve({ status: 0, detail: "" }); };
    request.send(form);
  });
}

async function sendAll(): Promise<void> {
  if (sending) return;
  sending = true;
  clearTimeout(retryTimer);
  try {
    for (;;) {
      const item = queue.find((candidate) => !candidate.refused);
      if (!item) break;
      const answer = await send(item);
      if (answer.status === 200 || answer.status === 201) {
        tries = 0;
        await drop(item.key);
        queue = queue.filter((other) => other.key !== item.key);
        await fetchState().catch(() => undefined);
      } else if (answer.status === 413 || answer.status === 422) {
        item.refused = answer.detail || "The bench could not use it.";
        await drop(item.key);
      } else {
        if (answer.status === 410) message("This code has expired. Open a new one from the bench and scan it; photos that wait here are kept.");
        tries += 1;
        retryTimer = window.setTimeout(() => { void sendAll(); }, backoff(tries));
        break;
      }
      draw();
    }
  } finally {
    sending = false;
    draw();
  }
}

async function take(input: HTMLInputElement): Promise<void> {
  const files = Array.from(input.files ?? []);
  input.value = "";
  for (const file of files) {
    const item: Waiting = { key: newKey(), code, name: file.name || "photo.jpg", blob: file, addedAt: Date.now() };
    pictures[item.key] = URL.createObjectURL(file);
    try {
      await keep(item);
    } catch {
      message("This browser keeps no queue here (private window or full storage): stay on this page until all photos are sent.");
    }
    queue.push(item);
  }
  draw();
  void sendAll();
}

function step(move: number): void {
  fetch(`${base}/step`, { method: "POST", body: JSON.stringify({ move }) }).then(() => fetchState()).catch(() => { message("The network is away; the pattern did not change."); });
}

function listen(): void {
  const source = new EventSource(`${base}/events`);
  source.addEventListener("hello", () => { void fetchState().then(() => { message(""); return sendAll(); }).catch(() => undefined); });
  source.onmessage = () => { void fetchState().catch(() => undefined); };
  source.onerror = () => { if (source.readyState === 2) setTimeout(listen, 2000); };
}

for (const id of ["camera", "files"]) element(id).addEventListener("change", (event) => { void take(event.target as HTMLInputElement); });
element("next").addEventListener("click", () => { step(1); });
element("previous").addEventListener("click", () => { step(-1); });
document.addEventListener("keydown", (event) => {
  const move = ({ " ": 1, ArrowRight: 1, PageDown: 1, ArrowLeft: -1, PageUp: -1 } as Record<string, number>)[event.key];
  if (move && (event.target as HTMLElement).tagName !== "INPUT" && !(event.key === " " && (event.target as HTMLElement).tagName === "BUTTON")) { event.preventDefault(); step(move); }
});
window.addEventListener("online", () => { tries = 0; void sendAll(); });
window.addEventListener("offline", draw);

void waiting(code).then((kept) => {
  queue = kept;
  for (const item of kept) pictures[item.key] = URL.createObjectURL(item.blob);
}).catch(() => undefined).then(() => fetchState()).catch(() => { draw(); }).then(() => { listen(); void sendAll(); });
