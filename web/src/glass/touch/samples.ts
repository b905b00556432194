// Touches as rows of a session: t in ms since its start, the contact, what happened, where on the panel, pressure and size where known.

import type { Point } from "./orient";

export type Ev = "down" | "move" | "up" | "cancel";
export type Row = [number, number, Ev, number | null, number | null, number | null, number | null, number | null];
/** Where a place of the page lies on the panel, and how many panel pixels a CSS pixel is. */
export interface Ground {
  toPanel: (clientX: number, clientY: number) => Point;
  scale: () => number;
  toTime: (stamp: number) => number;
}

const KINDS: Record<string, Ev> = {
  pointerdown: "down",
  pointermove: "move",
  pointerup: "up",
  pointercancel: "cancel",
  touchstart: "down",
  touchmove: "move",
  touchend: "up",
  touchcancel: "cancel",
};
const tenth = (value: number): number => Math.round(value * 10) / 10;

/** One pixel is what a browser says when it does not know the size; a pressure of 0, or of a half on a mere contact, is no measurement. */
function known(
  pressure: number,
  width: number,
  height: number,
  scale: number,
): [number | null, number | null, number | null] {
  const sized = width > 1 || height > 1;
  const pressed = pressure > 0 && pressure !== 0.5 && pressure !== 1;
  return [
    pressed ? Math.round(pressure * 1000) / 1000 : null,
    sized ? tenth(width * scale) : null,
    sized ? tenth(height * scale) : null,
  ];
}

function rowOf(
  ground: Ground,
  stamp: number,
  id: number,
  ev: Ev,
  x: number,
  y: number,
  pressure: number,
  width: number,
  height: number,
): Row {
  const [px, py] = ground.toPanel(x, y);
  const [p, w, h] = known(pressure, width, height, ground.scale());
  return [tenth(ground.toTime(stamp)), id, ev, tenth(px), tenth(py), p, w, h];
}

export function rowsOfPointer(event: PointerEvent, ground: Ground): Row[] {
  const ev = KINDS[event.type];
  if (!ev || event.pointerType === "mouse") return [];
  const gathered = ev === "move" && event.getCoalescedEvents ? event.getCoalescedEvents() : [];
  return (gathered.length ? gathered : [event]).map((one) =>
    rowOf(ground, one.timeStamp, event.pointerId, ev, one.clientX, one.clientY, one.pressure, one.width, one.height),
  );
}

/** For browsers without pointer events. */
export function rowsOfTouch(event: TouchEvent, ground: Ground): Row[] {
  const ev = KINDS[event.type];
  if (!ev) return [];
  return Array.prototype.map.call(event.changedTouches, (touch: Touch) =>
    rowOf(
      ground,
      event.timeStamp,
      touch.identifier,
      ev,
      touch.clientX,
      touch.clientY,
      touch.force || 0,
      2 * (touch.radiusX || 0),
      2 * (touch.radiusY || 0),
    ),
  ) as Row[];
}

/** Hear every touch on the page; returns how to stop. */
export function listenTo(target: Window, ground: Ground, take: (rows: Row[]) => void): () => void {
  const hear = (event: Event) => {
    if (event.cancelable) event.preventDefault();
    const rows =
      "changedTouches" in event
        ? rowsOfTouch(event as TouchEvent, ground)
        : rowsOfPointer(event as PointerEvent, ground);
    if (rows.length) take(rows);
  };
  const names =
    "PointerEvent" in target
      ? ["pointerdown", "pointermove", "pointerup", "pointercancel"]
      : ["touchstart", "touchmove", "touchend", "touchcancel"];
  // with pointer events, too, only the old events can keep the page from scrolling or zooming under the finger
  const hold = (event: Event) => {
    if (event.cancelable) event.preventDefault();
  };
  const held = "PointerEvent" in target ? ["touchstart", "touchmove"] : [];
  names.forEach((name) => {
    target.addEventListener(name, hear, { passive: false });
  });
  held.forEach((name) => {
    target.addEventListener(name, hold, { passive: false });
  });
  return () => {
    names.forEach((name) => {
      target.removeEventListener(name, hear);
    });
    held.forEach((name) => {
      target.removeEventListener(name, hold);
    });
  };
}
