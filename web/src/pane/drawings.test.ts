import { describe, expect, it } from "vitest";
import { keepOutBox, plugBox, unitsPerMm } from "./drawings";

const PANEL = { x: 0, y: 0, width: 100, height: 50 };

describe("drawings", () => {
  it("mirror the plug's side when it is seen from the front", () => {
    expect(plugBox(PANEL, "left", "bottom", "back").x).toBeLessThan(50);
    expect(plugBox(PANEL, "left", "bottom", "front").x).toBeGreaterThan(50);
    expect(plugBox(PANEL, "middle", "top", "front")).toEqual(plugBox(PANEL, "middle", "top", "back"));
    expect(plugBox(PANEL, "left", "bottom", "back").y + 3.5).toBe(50);
  });

  it("put a keep-out inside its edge", () => {
    expect(keepOutBox(PANEL, "top", [0.25, 0.75], 4)).toEqual({ x: 25, y: 0, width: 50, height: 4 });
    expect(keepOutBox(PANEL, "right", [0.4, 0.2], 4)).toEqual({ x: 96, y: 10, width: 4, height: 10 });
  });

  it("are to scale", () => {
    expect(unitsPerMm(309.4, 1366, 768, 13.98)).toBeCloseTo(1, 2); // a 14 in panel of 16:9 is 309 mm wide
  });
});
