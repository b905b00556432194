import { describe, expect, it } from "vitest";
import type { FitState } from "../api/client";
import { layOut } from "./stepGraph";

type StepOut = FitState["steps"][number];
const step = (id: string, ...needs: string[]) => ({ step: { id, title: id, needs } }) as unknown as StepOut;

describe("the order of steps as a drawing", () => {
  it("puts each step after all that comes before it, and no two at one place", () => {
    const { placed, columns } = layOut([step("a"), step("b", "a"), step("c", "a"), step("d", "b", "c"), step("e")]);
    const at = Object.fromEntries(placed.map((one) => [one.entry.step.id, one.column]));
    expect(at).toEqual({ a: 0, b: 1, c: 1, d: 2, e: 0 });
    expect(new Set(placed.map((one) => `${one.column}/${one.row}`)).size).toBe(placed.length);
    expect(columns).toBe(3);
  });

  it("draws no line that another way already tells", () => {
    const { lines } = layOut([step("a"), step("b", "a"), step("c", "a", "b")]);
    expect(lines.map((one) => `${one.from.entry.step.id}${one.to.entry.step.id}`)).toEqual(["ab", "bc"]);
  });

  it("stands a step that waits for one that is not there, and nothing at all", () => {
    expect(layOut([step("a", "ghost")]).placed[0]?.column).toBe(0);
    expect(layOut([]).rows).toBe(0);
  });
});
