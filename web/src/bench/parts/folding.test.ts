import { expect, test } from "vitest";
import type { Finding } from "../api/client";
import { foldedOf, unmarkedOf } from "./folding";

const heap = (kind: Finding["kind"], count: number) =>
  Array.from({ length: count }, () => ({ kind, decision: null }) as Finding);

test("heaps of what is not of the panel are folded, few and faults are not", () => {
  const findings = [...heap("dead_pixel", 9), ...heap("camera", 5), ...heap("dust", 4)];
  const folded = foldedOf(findings, new Set());
  expect([...folded]).toEqual([["camera", [9, 10, 11, 12, 13]]]);
  expect(unmarkedOf(folded).size).toBe(5);
  expect(foldedOf(findings, new Set(["camera"])).size).toBe(0);
});

test("grains keep their marks, and what somebody decided stays in the list", () => {
  const decided = { kind: "dust", decision: { verdict: "accepted" } } as Finding;
  const folded = foldedOf([decided, ...heap("dust", 6)], new Set());
  expect(folded.get("dust")).toHaveLength(6);
  expect(unmarkedOf(folded).size).toBe(0);
});
