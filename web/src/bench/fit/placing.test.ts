import { describe, expect, it } from "vitest";
import { MOST_SPOTS, tapped, type Spot } from "./placing";

describe("tapping screws onto a drawing", () => {
  it("adds one, makes it a look-alike hole, and takes it away", () => {
    let spots = tapped([], 0.2, 0.9, 0.6);
    expect(spots).toEqual([{ x: 0.2, y: 0.9, hole: "" }]);
    const holes: string[] = [];
    for (let n = 0; n < 3; n += 1) {
      spots = tapped(spots, 0.205, 0.9, 0.6);
      holes.push(spots[0]?.hole ?? "gone");
    }
    expect(holes).toEqual(["inner", "outer", "gone"]);
  });

  it("keeps neighbours apart and stays on the device", () => {
    const spots = tapped(tapped([], 0.2, 0.5, 2), 0.4, 1.7, 2);
    expect(spots).toHaveLength(2);
    expect(spots[1]).toEqual({ x: 0.4, y: 1, hole: "" });
  });

  it("has an end", () => {
    const many: Spot[] = Array.from({ length: MOST_SPOTS }, (_, n) => ({ x: n / MOST_SPOTS, y: 0.1, hole: "" }));
    expect(tapped(many, 0.5, 0.9, 1)).toHaveLength(MOST_SPOTS);
  });
});
