import { describe, expect, it } from "vitest";
import { cellAt, movedCursor } from "./marks";

describe("places on the grid", () => {
  it("are where the finger is, and at the rim when it is beyond", () => {
    expect(cellAt(0.5, 0.5, 20, 12)).toEqual([10, 6]);
    expect(cellAt(0.9999, 0, 20, 12)).toEqual([19, 0]);
    expect([cellAt(-0.2, 1.4, 20, 12), cellAt(1, 1, 20, 12)]).toEqual([
      [0, 11],
      [19, 11],
    ]);
  });
  it("are walked by arrow keys up to the ends", () => {
    expect(movedCursor("ArrowRight", [18, 3], 20, 12)).toEqual([19, 3]);
    expect(movedCursor("ArrowRight", [19, 3], 20, 12)).toEqual([19, 3]);
    expect(movedCursor("ArrowUp", [0, 0], 20, 12)).toEqual([0, 0]);
    expect(movedCursor("Enter", [0, 0], 20, 12)).toBeNull();
  });
});
