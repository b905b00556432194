import { describe, expect, it } from "vitest";
import { newKey } from "../common/key";
import { backoff } from "./queue";

describe("the hand camera's queue", () => {
  it("gives every photo its own key", () => {
    const keys = Array.from({ length: 200 }, newKey);
    expect(new Set(keys).size).toBe(200);
    expect(keys.every((key) => /^[0-9a-f]{32}$/.test(key))).toBe(true);
  });
  it("waits longer each time, but never more than half a minute", () => {
    expect([1, 2, 3, 10].map(backoff)).toEqual([1000, 2000, 4000, 30000]);
  });
});
