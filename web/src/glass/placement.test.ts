import { describe, expect, it } from "vitest";
import { place } from "./placement";

const panel = { width: 1920, height: 1080 };

describe("where the pattern goes", () => {
  it("is exact when the canvas is the panel", () => {
    expect(place(panel, panel, { left: 0, top: 0 })).toMatchObject({
      exact: true,
      x: 0,
      y: 0,
      width: 1920,
      height: 1080,
      rim: 0,
    });
  });
  it("keeps panel coordinates under a browser's rim and reports it", () => {
    const told = place(panel, { width: 1920, height: 969 }, { left: 0, top: 111 });
    expect(told).toMatchObject({ exact: false, x: 0, y: -111, width: 1920, height: 1080, rim: 111 });
    expect(told.warning).toContain("F11");
  });
  it("never shifts the pattern by more than what is missing", () => {
    expect(place(panel, { width: 1920, height: 1040 }, { left: 900, top: 900 })).toMatchObject({ x: 0, y: -40 });
  });
  it("says so when the screen is scaled or another one", () => {
    for (const canvas of [
      { width: 1536, height: 864 },
      { width: 2560, height: 1440 },
      { width: 1080, height: 1920 },
    ]) {
      const told = place(panel, canvas, { left: 0, top: 0 });
      expect(told.exact).toBe(false);
      expect(told.warning).toContain("Not 1:1");
      expect([told.width, told.height]).toEqual([canvas.width, canvas.height]);
    }
  });
});
