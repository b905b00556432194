// The live link: one stream a job. It says which parts of the job changed; many small changes in a row cause one refetch.

import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { setLinked, staleParts } from "./facets";

export interface LiveEvent {
  what: string;
  run: number | null;
  /** Facets of the job that changed; null is any. */
  facets: string[] | null;
  version?: number;
  pattern?: string;
  step?: number;
  photo?: number;
  good?: boolean;
}
type Listener = (event: LiveEvent) => void;
const listeners = new Set<Listener>();

export function onLive(listener: Listener): () => void {
  listeners.add(listener);
  return () => {
    listeners.delete(listener);
  };
}

const SOON_MS = 120;
const FOLLOW_MS = 1000;
const RELINK_MS = 2000;

/** Keep the stream of a job open while its screen is. */
export function useLive(id: number): boolean {
  const queries = useQueryClient();
  const [up, setUp] = useState(true);
  useEffect(() => {
    let source: EventSource;
    let retry = 0;
    const timers = new Map<number, number>();
    const waiting: LiveEvent[] = [];
    const catchUp = () => {
      const events = waiting.splice(0);
      const parts = events.map((event) => staleParts(id, event.facets, event.version));
      if (parts.includes(null)) void queries.invalidateQueries({ queryKey: ["job", id] });
      else
        for (const part of new Set([...parts.flatMap((some) => some ?? []), "record"]))
          void queries.invalidateQueries({ queryKey: ["job", id, part] });
    };
    const soon = (event: LiveEvent, delay: number) => {
      waiting.push(event);
      // a device that records tells several times a second how far it is: the page follows once a second
      if (delay === FOLLOW_MS && timers.has(delay)) return;
      clearTimeout(timers.get(delay));
      timers.set(
        delay,
        window.setTimeout(() => {
          timers.delete(delay);
          catchUp();
        }, delay),
      );
    };
    const hear = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as LiveEvent;
      listeners.forEach((listener) => {
        listener(event);
      });
      if (event.what === "touch_now") soon(event, FOLLOW_MS);
      else if (event.facets === null || event.facets.length > 0 || event.version !== undefined) soon(event, SOON_MS);
    };
    const open = () => {
      source = new EventSource(`/api/jobs/${id}/events`);
      source.addEventListener("hello", () => {
        setUp(true);
        setLinked(id, true);
        void queries.invalidateQueries({ queryKey: ["job", id] });
      });
      source.onmessage = hear;
      source.onerror = () => {
        setUp(false);
        setLinked(id, false);
        // a browser gives up on any answer that is no stream: signed out, or the server is starting
        if (source.readyState === EventSource.CLOSED) retry = window.setTimeout(open, RELINK_MS);
      };
    };
    open();
    return () => {
      timers.forEach((timer) => {
        clearTimeout(timer);
      });
      clearTimeout(retry);
      setLinked(id, false);
      source.close();
    };
  }, [id, queries]);
  return up;
}
