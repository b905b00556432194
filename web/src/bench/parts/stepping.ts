// Stepping on by itself: when a good photo of the pattern that is shown has come, the next one that is missing is shown, with a sound.

import { useEffect, useState, type RefObject } from "react";
import { onLive } from "../api/live";

const KEY = "clear-lens-steps-on";

/** The pattern to show after one was photographed: the next of the set that has no photo yet, null when all have. */
export function nextMissing(
  patterns: readonly string[],
  have: ReadonlySet<string | null>,
  photographed: string,
): string | null {
  const at = patterns.indexOf(photographed);
  const turned = [...patterns.slice(at + 1), ...patterns.slice(0, Math.max(at, 0))];
  return turned.find((id) => !have.has(id) && id !== photographed) ?? null;
}

function beep(): void {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    const gain = audio.createGain();
    gain.gain.value = 0.08;
    tone.frequency.value = 880;
    tone.connect(gain).connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.12);
    tone.onended = () => {
      void audio.close();
    };
  } catch {
    /* a browser without sound steps on silently */
  }
}

export function useSteppingOn(
  runId: number | undefined,
  shown: RefObject<string>,
  next: (photographed: string) => string | null,
  show: (pattern: string) => void,
) {
  const [on, setOn] = useState(() => localStorage.getItem(KEY) !== "no");
  useEffect(
    () =>
      onLive((event) => {
        if (!on || event.what !== "photo" || event.run !== runId || !event.good || event.pattern !== shown.current)
          return;
        const to = next(event.pattern);
        beep();
        if (to) show(to);
      }),
    [on, runId, shown, next, show],
  );
  const change = (to: boolean) => {
    localStorage.setItem(KEY, to ? "yes" : "no");
    setOn(to);
  };
  return [on, change] as const;
}
