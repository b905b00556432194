import { expect, test } from "vitest";
import type { Job, Photo, Run } from "../api/client";
import { alike, counterpart, lookable } from "./choices";

const photo = (id: number, pattern: string | null, more: object = {}) =>
  ({ id, removed: false, report: { pattern, map: pattern ? { width: 1 } : null }, ...more }) as unknown as Photo;
const run = (id: number, stage: Run["stage"], photos: Photo[], width = 640) =>
  ({ id, stage, photos, screen: { width, height: 400 } }) as unknown as Run;
const job = {
  runs: [
    run(1, "inspect", [photo(1, "white"), photo(2, "white"), photo(3, null), photo(4, "red", { removed: true })]),
    run(2, "closed", [photo(5, "white")]),
    run(3, "external", [photo(6, "white")], 1920),
  ],
} as unknown as Job;

test("only photos that are registered and not taken out are offered, each with a name of its own", () => {
  expect(lookable(job).map((one) => [one.photo.id, one.name])).toEqual([
    [1, "As received: white"],
    [2, "As received: white (2)"],
    [5, "Closed: white"],
    [6, "External output: white"],
  ]);
});

test("a photo is held against the same pattern of the same screen at another stage", () => {
  const all = lookable(job);
  const [first, again, closed, external] = all;
  if (!first || !again || !closed || !external) throw new Error("four are offered");
  expect(counterpart(all, first)).toBe(closed);
  expect(counterpart(all, closed)).toBe(again);
  expect(counterpart(all, external)).toBeNull();
  expect(alike(first, again)).toBe(true);
  expect(alike(first, external)).toBe(false);
  expect(alike(first, first)).toBe(false);
});

test("what the device looked like when it was here before is held against it by its number", () => {
  const [left] = lookable({ runs: [run(9, "closed", [photo(90, "white")])] }, 12);
  const [now] = lookable(job);
  if (!left || !now) throw new Error("both are offered");
  expect(left.name).toBe("Job 12, Closed: white");
  const received = lookable({ runs: job.runs.slice(0, 1) });
  expect(counterpart([left, ...received], now)).toBe(left);
});
