// The canvas on which photos lie over the panel: dragged, pinched, wheeled; a finding under the finger is chosen.

import { Box } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import type { Finding } from "../api/client";
import { drawScene, type Scene } from "./draw";
import { held, toPanel, toWindow, zoomed, type Box as Size, type Place, type View } from "./view";

/** A finding is under the finger within so many CSS px. */
const REACH_PX = 18;
const WHEEL_STEP = 0.0016;
/** A press that moves less is a tap. */
const TAP_PX = 5;

interface Props {
  panel: Size;
  layers: Scene["layers"];
  findings: readonly Finding[];
  marks: boolean;
  selected: Finding | null;
  pitchMm: number | null;
  view: View | null;
  onView: (view: View) => void;
  onWindow: (window: Size) => void;
  ruling: boolean;
  ruler: readonly Place[];
  onRuler: (ends: readonly Place[]) => void;
  onSelect: (finding: Finding | null) => void;
  onPlace: (place: Place | null) => void;
  label: string;
}

const distance = (a: Place, b: Place) => Math.hypot(a.x - b.x, a.y - b.y);

export function PhotoCanvas(props: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const latest = useRef(props);
  const [size, setSize] = useState<Size | null>(null);
  const redraw = useRef<() => void>(() => undefined);
  const { onWindow, layers } = props;

  useEffect(() => {
    const shown = canvas.current;
    if (!shown) return;
    const watcher = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const { width, height } = entry.contentRect;
      if (width < 1 || height < 1) return;
      setSize({ width, height });
      onWindow({ width, height });
    });
    watcher.observe(shown);
    return () => {
      watcher.disconnect();
    };
  }, [onWindow]);

  // drawn at most once a frame, and only when something changed
  useEffect(() => {
    let frame = 0;
    const draw = () => {
      frame = 0;
      const shown = canvas.current;
      const pen = shown?.getContext("2d");
      const now = latest.current;
      if (!shown || !pen || !size || !now.view) return;
      const ratio = window.devicePixelRatio || 1;
      const [wide, tall] = [Math.round(size.width * ratio), Math.round(size.height * ratio)];
      if (shown.width !== wide || shown.height !== tall) [shown.width, shown.height] = [wide, tall];
      const began = performance.now();
      drawScene(pen, { ...now, view: now.view, window: size, ratio });
      performance.measure("photo-frame", { start: began });
    };
    redraw.current = () => {
      frame ||= requestAnimationFrame(draw);
    };
    redraw.current();
    return () => {
      cancelAnimationFrame(frame);
    };
  }, [size]);
  useEffect(() => {
    latest.current = props;
    redraw.current();
  });
  useEffect(() => {
    const leave = layers.map(({ layer }) => layer.store.subscribe(() => redraw.current()));
    return () => {
      for (const one of leave) one();
    };
  }, [layers]);

  const at = (event: { clientX: number; clientY: number }): Place => {
    const box = canvas.current?.getBoundingClientRect();
    return { x: event.clientX - (box?.left ?? 0), y: event.clientY - (box?.top ?? 0) };
  };
  const nearest = (place: Place): Finding | null => {
    const { view, findings, marks } = latest.current;
    if (!view || !size || !marks) return null;
    const near = findings
      .map((one) => ({ one, far: distance(toWindow(one, view, size), place) }))
      .filter(({ far }) => far <= REACH_PX)
      .sort((a, b) => a.far - b.far);
    return near[0]?.one ?? null;
  };
  /** Where the ruler's end goes: to a finding that is near, else to the place itself. */
  const ended = (place: Place): Place => {
    const near = nearest(place);
    const { view } = latest.current;
    if (near) return { x: near.x, y: near.y };
    return view && size ? toPanel(place, view, size) : place;
  };

  useEffect(() => {
    const shown = canvas.current;
    if (!shown || !size) return;
    const fingers = new Map<number, Place>();
    let began: Place | null = null;
    const change = (to: View) => {
      const { onView, panel } = latest.current;
      onView(held(to, panel, size));
    };
    const down = (event: PointerEvent) => {
      shown.setPointerCapture(event.pointerId);
      fingers.set(event.pointerId, at(event));
      began = fingers.size === 1 ? at(event) : null;
      if (latest.current.ruling && fingers.size === 1) latest.current.onRuler([ended(at(event))]);
    };
    const move = (event: PointerEvent) => {
      const { view, ruling, ruler, onRuler, onPlace } = latest.current;
      if (!view) return;
      const place = at(event);
      onPlace(toPanel(place, view, size));
      const before = fingers.get(event.pointerId);
      if (!before) return;
      const others = [...fingers].filter(([id]) => id !== event.pointerId).map(([, one]) => one);
      fingers.set(event.pointerId, place);
      const other = others[0];
      if (other) {
        const middle = { x: (place.x + other.x) / 2, y: (place.y + other.y) / 2 };
        const was = { x: (before.x + other.x) / 2, y: (before.y + other.y) / 2 };
        const by = distance(place, other) / Math.max(distance(before, other), 1);
        const next = zoomed(view, by, middle, size);
        change({ ...next, x: next.x - (middle.x - was.x) / next.zoom, y: next.y - (middle.y - was.y) / next.zoom });
      } else if (ruling && ruler[0]) onRuler([ruler[0], ended(place)]);
      else
        change({ ...view, x: view.x - (place.x - before.x) / view.zoom, y: view.y - (place.y - before.y) / view.zoom });
    };
    const up = (event: PointerEvent) => {
      const { ruling, onSelect } = latest.current;
      if (fingers.delete(event.pointerId) && began && !ruling && distance(began, at(event)) < TAP_PX)
        onSelect(nearest(at(event)));
      began = null;
    };
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const { view } = latest.current;
      if (view) change(zoomed(view, Math.exp(-event.deltaY * WHEEL_STEP), at(event), size));
    };
    const away = () => {
      latest.current.onPlace(null);
    };
    shown.addEventListener("pointerdown", down);
    shown.addEventListener("pointermove", move);
    shown.addEventListener("pointerup", up);
    shown.addEventListener("pointercancel", up);
    shown.addEventListener("pointerleave", away);
    shown.addEventListener("wheel", wheel, { passive: false });
    return () => {
      shown.removeEventListener("pointerdown", down);
      shown.removeEventListener("pointermove", move);
      shown.removeEventListener("pointerup", up);
      shown.removeEventListener("pointercancel", up);
      shown.removeEventListener("pointerleave", away);
      shown.removeEventListener("wheel", wheel);
    };
    // its own helpers read what is latest
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [size]);

  return (
    <Box
      component="canvas"
      ref={canvas}
      role="img"
      aria-label={props.label}
      sx={{
        display: "block",
        width: "100%",
        height: "100%",
        touchAction: "none",
        cursor: props.ruling ? "crosshair" : "grab",
        "&:active": { cursor: props.ruling ? "crosshair" : "grabbing" },
      }}
    />
  );
}
