// How many photos wait to be read, and about how long it takes, by how fast the last ones were.

import { useEffect, useRef, useState } from "react";

const LEAST_S = 2;

export interface Pace {
  /** When the first photo of this batch began to wait, ms. */
  begun: number;
  /** How many were read since. */
  read: number;
  waiting: number;
}

/** The pace after the number of waiting photos became `waiting` at `now`; a batch begins where none waited. */
export function paced(pace: Pace | null, waiting: number, now: number): Pace | null {
  if (waiting === 0) return null;
  if (!pace) return { begun: now, read: 0, waiting };
  return { ...pace, read: pace.read + Math.max(0, pace.waiting - waiting), waiting };
}

/** '3 photos wait to be read, about 20 s.'; without a time until one of the batch was read. */
export function waitWords(pace: Pace | null, now: number): string {
  if (!pace) return "";
  const count = pace.waiting === 1 ? "1 photo waits to be read" : `${pace.waiting} photos wait to be read`;
  if (!pace.read) return `${count}.`;
  const seconds = ((now - pace.begun) / 1000 / pace.read) * pace.waiting;
  const rounded = seconds < LEAST_S ? LEAST_S : Number(seconds.toPrecision(seconds < 100 ? 1 : 2));
  return `${count}, about ${rounded < 120 ? `${rounded} s` : `${Math.round(rounded / 60)} min`}.`;
}

/** The words for a number of waiting photos, as it changes. */
export function useWaitWords(waiting: number): string {
  const pace = useRef<Pace | null>(null);
  const [words, setWords] = useState("");
  useEffect(() => {
    const now = Date.now();
    pace.current = paced(pace.current, waiting, now);
    setWords(waitWords(pace.current, now));
  }, [waiting]);
  return words;
}
