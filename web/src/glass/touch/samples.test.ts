import { expect, test } from "vitest";
import { rowsOfPointer, rowsOfTouch, type Ground } from "./samples";

const GROUND: Ground = { toPanel: (x, y) => [2 * x, 2 * y], scale: () => 2, toTime: (stamp) => stamp - 1000 };
const pointer = (fields: object) =>
  ({
    type: "pointermove",
    pointerType: "touch",
    pointerId: 7,
    timeStamp: 1010.04,
    clientX: 10,
    clientY: 20.26,
    pressure: 0.3,
    width: 20,
    height: 24,
    ...fields,
  }) as unknown as PointerEvent;

test("samples that the browser gathered for one event all count", () => {
  const gathered = [pointer({ timeStamp: 1002, clientX: 8 }), pointer({ timeStamp: 1006, clientX: 9 }), pointer({})];
  const rows = rowsOfPointer(pointer({ getCoalescedEvents: () => gathered }), GROUND);
  expect(rows).toEqual([
    [2, 7, "move", 16, 40.5, 0.3, 40, 48],
    [6, 7, "move", 18, 40.5, 0.3, 40, 48],
    [10, 7, "move", 20, 40.5, 0.3, 40, 48],
  ]);
});

test("W3C Pointer Events: a pressure of 0.5 and a size of 1 stand for not known", () => {
  expect(rowsOfPointer(pointer({ type: "pointerdown", pressure: 0.5, width: 1, height: 1 }), GROUND)[0]).toEqual([
    10,
    7,
    "down",
    20,
    40.5,
    null,
    null,
    null,
  ]);
});

test("a mouse is no finger", () => {
  expect(rowsOfPointer(pointer({ pointerType: "mouse" }), GROUND)).toEqual([]);
});

test("touch events give a row for each finger that changed", () => {
  const touch = (identifier: number, clientX: number) => ({
    identifier,
    clientX,
    clientY: 1,
    force: 0,
    radiusX: 5,
    radiusY: 6,
  });
  const event = {
    type: "touchend",
    timeStamp: 1500,
    changedTouches: { length: 2, 0: touch(1, 3), 1: touch(2, 4) },
  } as unknown as TouchEvent;
  expect(rowsOfTouch(event, GROUND)).toEqual([
    [500, 1, "up", 6, 2, null, 20, 24],
    [500, 2, "up", 8, 2, null, 20, 24],
  ]);
});
