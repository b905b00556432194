import { describe, expect, it } from "vitest";
import { says, stateOf, whole } from "./fasteners";

describe("screws of a step", () => {
  it("reads counts and a length with either decimal sign", () => {
    expect(stateOf({ lost_inside: "1", length_mm: "3,5" })).toMatchObject({
      lost_inside: 1,
      replaced: 0,
      length_mm: 3.5,
    });
    expect(stateOf({})).toMatchObject({ length_mm: null });
  });

  it("does not guess what it cannot read", () => {
    for (const bad of [{ lost: "-1" }, { lost: "two" }, { replaced: "10000" }, { length_mm: "long" }])
      expect(stateOf(bad)).toBeNull();
    expect(whole("")).toBeNull();
  });

  it("sends nothing where nothing was said", () => {
    const nothing = stateOf({ met: "4" });
    expect(nothing && says(nothing)).toBe(false);
    const said = stateOf({ left_out: "1" });
    expect(said && says(said)).toBe(true);
  });
});
