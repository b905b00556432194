import { describe, expect, it } from "vitest";
import { verdictOf } from "./verdictOf";

describe("a line's verdict", () => {
  it("is the device's own, else the last judged stage's, whatever order the stages come in", () => {
    expect(verdictOf({ verdict: "pass", stages: { inspect: "fail" } })).toEqual({ title: "Verdict", result: "pass" });
    expect(verdictOf({ verdict: null, stages: { dry_fit: "pass", inspect: "fail", external: "fail" } })).toEqual({
      title: "Dry fit",
      result: "pass",
    });
    expect(verdictOf({ verdict: null, stages: {} })).toBeNull();
  });
});
