import { describe, expect, it } from "vitest";
import { EMPTY, leftWords, notesOf, readable } from "./notes";

describe("what is noted with a step", () => {
  it("is sent as it was asked for, numbers with a comma or a point", () => {
    const typed = {
      ...EMPTY,
      heldS: 15,
      heat: { source: "plate" as const, setting: "90", cycles: "3", seconds: "45", battery: "41,5" },
      liners: { film: "off" as const },
    };
    expect(notesOf(typed)).toMatchObject({
      held_s: 15,
      heat: { source: "plate", setting_c: 90, cycles: 3, seconds: 45, battery_c: 41.5 },
      parts: {},
      liners: { film: "off" },
      hours: null,
    });
  });

  it("says when a number cannot be read", () => {
    expect(readable({ ...EMPTY, hours: "six" })).toBe(false);
    expect(readable({ ...EMPTY, hours: "6" })).toBe(true);
  });

  it("tells time left in the words of a bench", () => {
    expect([14.2, 245, 11_520, 14_399].map(leftWords)).toEqual(["15 s", "4:05 min", "3 h 12 min", "4 h 0 min"]);
  });
});
