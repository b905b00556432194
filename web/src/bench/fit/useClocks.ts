// The clocks of all open jobs. The server says how long each has left; the screen counts on from there, so a wrong clock here changes nothing.

import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, got, type JobClock } from "../api/client";
import { ring } from "./ring";

const ASKED_EVERY_MS = 30_000;
const TICK_MS = 1000;

/** Seconds left of each clock now, counted from the last answer of the server. */
export function useClocks(enabled = true): (JobClock & { leftS: number })[] {
  const clocks = useQuery({
    queryKey: ["clocks"],
    queryFn: () => got<JobClock[]>(client.GET("/api/clocks")),
    refetchInterval: ASKED_EVERY_MS,
    enabled,
  });
  const [now, setNow] = useState(() => Date.now());
  const asked = clocks.dataUpdatedAt;
  useEffect(() => {
    if (!clocks.data?.length) return;
    const timer = setInterval(() => {
      setNow(Date.now());
    }, TICK_MS);
    return () => {
      clearInterval(timer);
    };
  }, [clocks.data]);
  const told = (clocks.data ?? []).map((one) => ({
    ...one,
    leftS: Math.max(0, one.clock.left_s - Math.max(0, now - asked) / 1000),
  }));
  const before = useRef(new Map<string, number>());
  useEffect(() => {
    for (const one of told) {
      const key = `${one.job_id} ${one.clock.step} ${one.clock.began}`;
      const last = before.current.get(key);
      if (last !== undefined && last > 0 && one.leftS === 0) ring();
      before.current.set(key, one.leftS);
    }
  });
  return told;
}
