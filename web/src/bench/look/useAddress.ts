// What is looked at stands in the address: it can be sent to somebody, and a reload changes nothing.

import { useCallback, useEffect, useRef } from "react";
import { useSearchParams } from "react-router";
import { alike, type LookedAt } from "./choices";
import type { PhotoView } from "./useRectified";
import { asText, type View } from "./view";

export type How = "side" | "swipe";
const AFTER_MS = 400;

export interface Address {
  pictured: PhotoView;
  other: LookedAt | null;
  how: How;
  at: string | null;
  text: string;
  /** Null takes a value out. */
  change: (values: Record<string, string | null>) => void;
}

export function useAddress(all: readonly LookedAt[], main: LookedAt): Address {
  const [query, setQuery] = useSearchParams();
  // two changes may come before the page is drawn anew: each begins from the one before it, not from what is drawn
  const latest = useRef(query);
  useEffect(() => {
    latest.current = query;
  }, [query]);
  const change = useCallback(
    (values: Record<string, string | null>) => {
      const next = new URLSearchParams(latest.current);
      for (const [name, value] of Object.entries(values)) {
        if (value === null) next.delete(name);
        else next.set(name, value);
      }
      latest.current = next;
      setQuery(next, { replace: true });
    },
    [setQuery],
  );
  return {
    pictured: query.get("view") === "difference" ? "difference" : "photo",
    other: all.find((one) => String(one.photo.id) === query.get("with") && alike(one, main)) ?? null,
    how: query.get("how") === "swipe" ? "swipe" : "side",
    at: query.get("at"),
    text: query.toString(),
    change,
  };
}

/** The address follows the view once it rests. */
export function useViewInAddress({ at, change }: Address, moved: View | null): void {
  const text = moved ? asText(moved) : null;
  useEffect(() => {
    if (text === at) return;
    const timer = setTimeout(() => {
      change({ at: text });
    }, AFTER_MS);
    return () => {
      clearTimeout(timer);
    };
  }, [text, at, change]);
}
