import { describe, expect, it } from "vitest";
import { newKey } from "../common/key";
import { backoff, nextToTry, outcomeOf } from "./queue";

describe("the hand camera's queue", () => {
  it("gives every photo its own key", () => {
    const keys = Array.from({ length: 200 }, newKey);
    expect(new Set(keys).size).toBe(200);
    expect(keys.every((key) => /^[0-9a-f]{32}$/.test(key))).toBe(true);
  });
  it("waits longer each time, but never more than half a minute", () => {
    expect([1, 2, 3, 10].map(backoff)).toEqual([1000, 2000, 4000, 30000]);
  });
  it("lets a photo go only after an answer that will not change", () => {
    expect([200, 201].map((status) => outcomeOf(status, ""))).toEqual(["stored", "stored"]);
    expect([409, 413, 415, 422].map((status) => outcomeOf(status, "not-an-image"))).toEqual(Array(4).fill("refused"));
    expect([0, 401, 408, 410, 429, 500, 502, 503, 507].map((status) => outcomeOf(status, ""))).toEqual(
      Array(9).fill("wait"),
    );
    expect(["job-closed", "too-many-photos"].map((code) => outcomeOf(422, code))).toEqual(["wait", "wait"]);
  });
  it("tries the least tried first, so that a bad photo keeps no other waiting", () => {
    const photos = [
      { addedAt: 1, tries: 2 },
      { addedAt: 2, tries: 1 },
      { addedAt: 3, tries: 1 },
      { addedAt: 0, refused: "no photo" },
    ];
    expect(nextToTry(photos)).toBe(photos[1]);
    expect(nextToTry([photos[3]!])).toBeUndefined();
  });
});
