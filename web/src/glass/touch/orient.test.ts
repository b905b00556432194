import { expect, test } from "vitest";
import { toPanel, toView, turnOf, viewOf } from "./orient";

const PANEL = { width: 720, height: 1280 };
const NO_GAP = { left: 0, top: 0 };

test("the turn follows the screen, and the shapes where the screen contradicts them", () => {
  expect(turnOf(PANEL, { width: 720, height: 1280 }, 0)).toBe(0);
  expect(turnOf(PANEL, { width: 1280, height: 720 }, 90)).toBe(90);
  expect(turnOf(PANEL, { width: 1280, height: 720 }, -90)).toBe(270);
  expect(turnOf({ width: 1280, height: 800 }, { width: 1280, height: 800 }, 90)).toBe(0);
  expect(turnOf(PANEL, { width: 1280, height: 720 }, 0)).toBe(90);
});

test("upright, the middle of the first canvas pixel is panel pixel 0, 0", () => {
  const view = viewOf(PANEL, PANEL, 0, NO_GAP);
  expect(toPanel(view, 0.5, 0.5)).toEqual([0, 0]);
  expect(toPanel(view, 719.5, 1279.5)).toEqual([719, 1279]);
});

test("a device on its left side: the picture's upper left is the panel's upper right", () => {
  // Screen Orientation: at 90 degrees the device was turned a quarter to the left, its right edge is on top
  const view = viewOf(PANEL, { width: 1280, height: 720 }, 90, NO_GAP);
  expect(toPanel(view, 0.5, 0.5)).toEqual([719, 0]);
  expect(toPanel(view, 1279.5, 0.5)).toEqual([719, 1279]);
});

test("there and back at every turn, scaled and under a rim", () => {
  for (const [canvas, angle] of [
    [PANEL, 0],
    [{ width: 1280, height: 720 }, 90],
    [PANEL, 180],
    [{ width: 1280, height: 720 }, 270],
    [{ width: 360, height: 640 }, 0],
    [{ width: 720, height: 1200 }, 0],
  ] as const) {
    const view = viewOf(PANEL, canvas, angle, { left: 0, top: 80 });
    const [x, y] = toPanel(view, ...toView(view, 123.4, 987.6));
    expect(x).toBeCloseTo(123.4, 6);
    expect(y).toBeCloseTo(987.6, 6);
  }
});
