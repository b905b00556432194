// The page on which a device shows its own functions: a tone that its loudspeaker plays and its microphone hears, a frame of its camera.
// It only records; the bench judges.

import { asLuma, asPcm, asText } from "./samples";

interface Sense {
  id: string;
  functions: string[];
  good: boolean;
}
interface State {
  job: string;
  tones_hz: number[];
  senses: Sense[];
}

const EXPIRED = "This code has expired or was revoked. Open a new one from the bench and scan it again.";
const UNSAFE =
  "Over this address the browser gives no page the camera or the microphone. Open the bench by https, or test by hand: the list is at the bench.";
const base = location.pathname.replace(/\/$/, "");
const QUIET_MS = 700;
const TONE_MS = 900;
const SETTLE_MS = 250; // until the loudspeaker sounds and echo cancelling has let go
const FRAME_WIDTH = 160;
const LOOK_MS = 900; // until the exposure has settled
const element = (id: string) => document.getElementById(id) as HTMLElement;
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

function message(text: string): void {
  element("message").textContent = text;
  element("message").hidden = !text;
}

/** Half a second and more of the microphone, as it is: nothing cancelled, nothing levelled. */
async function listen(audio: AudioContext, stream: MediaStream, ms: number): Promise<Float32Array> {
  const source = audio.createMediaStreamSource(stream);
  // of all that browsers of eight years have, the one way to raw samples
  const tap = audio.createScriptProcessor(4096, 1, 1);
  const heard: Float32Array[] = [];
  tap.onaudioprocess = (event) => {
    heard.push(event.inputBuffer.getChannelData(0).slice());
  };
  source.connect(tap);
  tap.connect(audio.destination);
  await pause(ms);
  source.disconnect();
  tap.disconnect();
  const whole = new Float32Array(heard.reduce((sum, part) => sum + part.length, 0));
  heard.reduce((at, part) => {
    whole.set(part, at);
    return at + part.length;
  }, 0);
  return whole;
}

async function tone(hz: readonly number[]): Promise<object> {
  const audio = new AudioContext();
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
  });
  try {
    await audio.resume();
    const quiet = await listen(audio, stream, QUIET_MS);
    const gain = audio.createGain();
    gain.gain.value = 0.4;
    gain.connect(audio.destination);
    const sources = hz.map((one) => {
      const source = audio.createOscillator();
      source.frequency.value = one;
      source.connect(gain);
      source.start();
      return source;
    });
    await pause(SETTLE_MS);
    const played = await listen(audio, stream, TONE_MS);
    sources.forEach((one) => {
      one.stop();
    });
    return { rate_hz: audio.sampleRate, quiet: asText(asPcm(quiet)), played: asText(asPcm(played)) };
  } finally {
    stream.getTracks().forEach((track) => {
      track.stop();
    });
    void audio.close();
  }
}

async function frame(facing: "user" | "environment"): Promise<object> {
  const stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: facing } });
  try {
    const video = document.createElement("video");
    video.muted = true;
    video.playsInline = true;
    video.srcObject = stream;
    await video.play();
    await pause(LOOK_MS);
    const canvas = document.createElement("canvas");
    canvas.width = FRAME_WIDTH;
    canvas.height = Math.max(24, Math.round((FRAME_WIDTH * video.videoHeight) / Math.max(1, video.videoWidth)));
    const context = canvas.getContext("2d");
    if (!context) throw new Error("canvas");
    context.drawImage(video, 0, 0, canvas.width, canvas.height);
    const pixels = context.getImageData(0, 0, canvas.width, canvas.height);
    return { width: canvas.width, luma: asText(asLuma(pixels.data)) };
  } finally {
    stream.getTracks().forEach((track) => {
      track.stop();
    });
  }
}

const TITLES: Record<string, string> = {
  tone: "Play a tone and listen",
  front_camera: "Look through the front camera",
  rear_camera: "Look through the rear camera",
};
const record = (sense: string, hz: readonly number[]): Promise<object> =>
  sense === "tone" ? tone(hz) : frame(sense === "front_camera" ? "user" : "environment");

async function run(sense: Sense, hz: readonly number[], told: HTMLElement, button: HTMLButtonElement): Promise<void> {
  button.disabled = true;
  told.textContent = "Recording";
  try {
    const sent = await record(sense.id, hz);
    const answer = await fetch(`${base}/sensed`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ sense: sense.id, ...sent }),
    });
    const body = (await answer.json()) as { text?: string; detail?: string };
    told.textContent =
      answer.status === 410 ? EXPIRED : (body.text ?? body.detail ?? "The bench did not understand it.");
  } catch (error) {
    const name = error instanceof DOMException ? error.name : "";
    told.textContent =
      name === "NotAllowedError"
        ? "The browser was not allowed to. Allow it, then try again; or test it by hand."
        : name === "NotFoundError" || name === "OverconstrainedError"
          ? "The browser finds no such part in this device. Test it by hand."
          : "It did not work. Check the network and try again, or test it by hand.";
  }
  button.disabled = false;
}

function show(state: State): void {
  element("job").textContent = state.job;
  const list = element("senses");
  list.textContent = "";
  if (state.senses.length === 0) message("Nothing that this page can test was touched on this device.");
  for (const sense of state.senses) {
    const item = document.createElement("li");
    const title = document.createElement("b");
    title.textContent = sense.functions.join(", ");
    const told = document.createElement("p");
    told.setAttribute("role", "status");
    told.className = "quiet";
    told.textContent = sense.good ? "Found good." : "";
    const button = document.createElement("button");
    button.type = "button";
    button.textContent = TITLES[sense.id] ?? sense.id;
    button.addEventListener("click", () => {
      void run(sense, state.tones_hz, told, button);
    });
    item.append(title, button, told);
    list.append(item);
  }
}

async function begin(): Promise<void> {
  if (!window.isSecureContext || !("mediaDevices" in navigator)) {
    message(UNSAFE);
    return;
  }
  try {
    const answer = await fetch(`${base}/state`);
    if (answer.status === 410) message(EXPIRED);
    else if (answer.ok) show((await answer.json()) as State);
    else message("The bench does not answer as it should. Reload the page.");
  } catch {
    message("The bench does not answer. Check the network, then reload the page.");
  }
}

void begin();
