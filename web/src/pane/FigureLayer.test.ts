import { describe, expect, it } from "vitest";
import { figures } from "./FigureLayer";

describe("figures over the pane", () => {
  it("are medians of squares of cells, in their middle", () => {
    const values: number[] = Array.from({ length: 36 }, (_, n) => (n % 6 < 3 ? 1 : 5));
    values[0] = 99;
    const told = figures({ columns: 6, rows: 6, values });
    expect(told.map(({ value }) => value)).toEqual([1, 5, 1, 5]);
    expect(told[0]).toMatchObject({ column: 1.5, row: 1.5 });
  });
  it("stay inside a panel whose cells are no multiple of the squares", () => {
    for (const { column, row } of figures({ columns: 24, rows: 14, values: Array.from({ length: 336 }, () => 0.5) })) {
      expect(column).toBeLessThanOrEqual(24);
      expect(row).toBeLessThan(14);
    }
  });
});
