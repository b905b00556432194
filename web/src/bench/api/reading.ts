// A file that is read in the background: sent, watched until it is read, taken in where it is a table.

import { useCallback, useEffect, useRef, useState } from "react";
import { client, got, Problem, type Reading } from "./client";
import { sendForm } from "./files";

const ASKED_EVERY_MS = 400;
const at = (reading_id: number) => ({ params: { path: { reading_id } } });

export interface FileReading {
  reading: Reading | null;
  /** Sent, and not read yet. */
  busy: boolean;
  error: unknown;
  send: (file: File, fields?: Record<string, string>) => void;
  takeIn: () => void;
  reset: () => void;
}

/** One file at a time; a newer one takes the place of the one before. */
export function useReading(
  kind: "label" | "back" | "panels" | "offers",
  onRead?: (reading: Reading) => void,
): FileReading {
  const [reading, setReading] = useState<Reading | null>(null);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const current = useRef(0);
  const told = useRef(onRead);
  useEffect(() => {
    told.current = onRead;
  });
  useEffect(
    () => () => {
      current.current = -1;
    },
    [],
  );
  const watch = useCallback(async (begin: () => Promise<Reading>) => {
    const turn = (current.current += 1);
    const mine = () => current.current === turn;
    setBusy(true);
    setError(null);
    try {
      let now = await begin();
      while (mine() && now.state === "waiting") {
        setReading(now);
        await new Promise((resume) => setTimeout(resume, ASKED_EVERY_MS));
        const asked = now;
        // a server that is away for a moment loses nothing: the file is there
        now = await got<Reading>(client.GET("/api/readings/{reading_id}", at(asked.id))).catch((failure: unknown) => {
          if (failure instanceof Problem && failure.status >= 400 && failure.status < 500) throw failure;
          return asked;
        });
      }
      if (!mine()) return;
      setReading(now);
      if (now.state === "failed") setError(new Error(now.problem));
      else told.current?.(now);
    } catch (failure) {
      if (mine()) setError(failure);
    } finally {
      if (mine()) setBusy(false);
    }
  }, []);
  return {
    reading,
    busy,
    error,
    send: (file, fields = {}) => {
      setReading(null);
      void watch(async () => (await sendForm("/api/readings", { ...fields, file, kind })) as Reading);
    },
    takeIn: () => {
      if (reading) void watch(() => got<Reading>(client.POST("/api/readings/{reading_id}/take-in", at(reading.id))));
    },
    reset: () => {
      current.current += 1;
      setReading(null);
      setError(null);
      setBusy(false);
    },
  };
}
