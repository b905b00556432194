import { describe, expect, it } from "vitest";
import { worstMarker } from "./PhotoList";

describe("the worst marker of a registration", () => {
  it("is told by size and place", () => {
    const residuals = [
      { x: 50, y: 40, dx: 0.03, dy: 0.04 },
      { x: 900, y: 560, dx: -0.12, dy: 0.05 },
      { x: 480, y: 300, dx: 0, dy: 0.01 },
    ];
    expect(worstMarker(residuals, { width: 960, height: 600 }, 0.05)).toBe(" (worst marker 0.13 px, bottom right)");
    expect(worstMarker(residuals.slice(2), { width: 960, height: 600 }, 0.005)).toBe(" (worst marker 0.01 px, middle)");
  });
  it("is not told where it strays by no more than its edges do", () => {
    expect(worstMarker([{ x: 50, y: 40, dx: 0.03, dy: 0.04 }], { width: 960, height: 600 }, 0.06)).toBe("");
  });
  it("is not told where no marker was read", () => {
    expect(worstMarker([], { width: 960, height: 600 }, 0)).toBe("");
  });
});
