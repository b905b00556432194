import { describe, expect, it } from "vitest";
import { contour, levels, profile, type Grid } from "./contours";

const slope: Grid = {
  columns: 5,
  rows: 3,
  values: [0.8, 0.9, 1, 1.1, 1.2, 0.8, 0.9, 1, 1.1, 1.2, 0.8, 0.9, 1, 1.1, 1.2],
};

const STEPS = [0.02, 0.05, 0.1];

describe("contour lines", () => {
  it("stand where the field has the level", () => {
    for (const [x1, , x2] of contour(slope, 0.95)) {
      expect(x1).toBeCloseTo(2);
      expect(x2).toBeCloseTo(2);
    }
    expect(contour(slope, 0.95)).toHaveLength(2);
  });
  it("close around a spot", () => {
    const spot: Grid = { columns: 3, rows: 3, values: [1, 1, 1, 1, 0, 1, 1, 1, 1] };
    expect(contour(spot, 0.5)).toHaveLength(4);
    expect(contour(spot, 2)).toHaveLength(0);
  });
  it("are few enough to read", () => {
    expect(levels(slope, STEPS)).toEqual([0.8, 0.85, 0.9, 0.95, 1, 1.05, 1.1, 1.15, 1.2]);
    expect(levels({ columns: 1, rows: 2, values: [0.1, 1] }, STEPS)).toEqual([
      0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1,
    ]);
  });
  it("get coarser where there would be too many, and keep zero whole", () => {
    expect(levels({ columns: 1, rows: 2, values: [-3, 3] }, [0.5, 1])).toEqual([-3, -2, -1, 0, 1, 2, 3]);
    expect(levels({ columns: 1, rows: 2, values: [0, 40] }, [0.5, 1])).toHaveLength(21);
  });
  it("profiles run along a row or a column", () => {
    expect(profile(slope, "row", 1)).toEqual([0.8, 0.9, 1, 1.1, 1.2]);
    expect(profile(slope, "column", 3)).toEqual([1.1, 1.1, 1.1]);
  });
});
