import { describe, expect, it } from "vitest";
import { cellBox, CELL_COLUMNS, drawnBox, drawnHeight, DRAWN_WIDTH } from "./geometry";
import { ALL_KINDS, isExtended, markOf, wordOf } from "./marks";

const panel = { width: 1920, height: 1080 };

describe("the pane", () => {
  it("keeps the panel's true proportions", () => {
    expect(drawnHeight(panel)).toBeCloseTo(562.5);
    expect(drawnHeight({ width: 1080, height: 2400 })).toBeCloseTo(2222.2, 1);
  });
  it("puts pixel 0 half a pixel inside the corner and the last one half a pixel before the end", () => {
    expect(drawnBox(panel, { x: 0, y: 0, w: 1, h: 1 }).cx).toBeCloseTo(DRAWN_WIDTH / 1920 / 2);
    expect(drawnBox(panel, { x: 1919, y: 0, w: 1, h: 1 }).cx).toBeCloseTo(DRAWN_WIDTH - DRAWN_WIDTH / 1920 / 2);
  });
  it("covers a whole column from top to bottom", () => {
    const box = drawnBox(panel, { x: 100, y: 539.5, w: 1, h: 1080 });
    expect(box.y).toBeCloseTo(0);
    expect(box.height).toBeCloseTo(drawnHeight(panel));
  });
  it("lays the cells of the proven map without gaps", () => {
    const last = cellBox(panel, CELL_COLUMNS - 1, 26);
    expect(last.x + last.width).toBeCloseTo(DRAWN_WIDTH);
    expect(last.y + last.height).toBeCloseTo(drawnHeight(panel));
  });
});

describe("marks", () => {
  it("gives every kind its own shape", () => {
    const shapes = ALL_KINDS.map(
      (kind) => `${markOf(kind).path} ${String(markOf(kind).filled)} ${String(markOf(kind).dashed)}`,
    );
    expect(new Set(shapes).size).toBe(ALL_KINDS.length);
  });
  it("fills what is dark and outlines what is bright", () => {
    expect([markOf("dead_pixel").filled, markOf("dark_subpixel").filled]).toEqual([true, true]);
    expect([markOf("bright_pixel").filled, markOf("bright_subpixel").filled]).toEqual([false, false]);
  });
  it("draws unknown kinds as areas with their own words", () => {
    expect(wordOf("pressure_mark")).toBe("pressure mark");
    expect(isExtended("pressure_mark")).toBe(true);
  });
});
