// Strokes of a session on the pane, played at any speed.

import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, got, type Stroke } from "../api/client";

const FRAME_MS = 33;

export interface Replay {
  strokes: readonly Stroke[];
  until: number;
  end: number;
  playing: boolean;
  speed: number;
  shown: boolean;
  play: () => void;
  seek: (t: number) => void;
  setSpeed: (speed: number) => void;
  show: (on: boolean) => void;
}

export function useReplay(session: number | null): Replay {
  const [shown, setShown] = useState(false);
  const [at, setAt] = useState<number | null>(null);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(8);
  const strokes = useQuery({
    queryKey: ["strokes", session],
    enabled: shown && session !== null,
    staleTime: 10_000,
    queryFn: () =>
      got<Stroke[]>(client.GET("/api/touch/{session_id}/strokes", { params: { path: { session_id: session ?? 0 } } })),
  });
  const all = strokes.data ?? [];
  const end = all.reduce((latest, stroke) => Math.max(latest, stroke.points.at(-1)?.[0] ?? 0), 0);
  useEffect(() => {
    if (!playing) return undefined;
    const timer = window.setInterval(() => {
      setAt((now) => {
        const next = (now ?? 0) + FRAME_MS * speed;
        if (next >= end) setPlaying(false);
        return Math.min(next, end);
      });
    }, FRAME_MS);
    return () => {
      clearInterval(timer);
    };
  }, [playing, speed, end]);
  return {
    strokes: shown ? all : [],
    until: at ?? end,
    end,
    playing,
    speed,
    shown,
    setSpeed,
    play: () => {
      setShown(true);
      if (at === null || at >= end) setAt(0);
      setPlaying(!playing);
    },
    seek: (t) => {
      setPlaying(false);
      setAt(t);
    },
    show: (on) => {
      setShown(on);
      setPlaying(false);
      setAt(null);
    },
  };
}
