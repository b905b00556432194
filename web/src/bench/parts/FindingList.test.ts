import { describe, expect, it } from "vitest";
import type { Finding, Verdict } from "../api/client";
import { sorted } from "./FindingList";

const finding = (kind: Finding["kind"], confidence: number, decision: Finding["decision"] = null): Finding => ({
  id: "",
  kind,
  confidence,
  decision,
  x: 0,
  y: 0,
  w: 1,
  h: 1,
  contrast: 0,
  channel: null,
  orientation: null,
  patterns: [],
  members: [],
  reasons: [],
  semu: null,
  alternatives: [],
  ask: null,
});

describe("the list of findings", () => {
  it("begins with what makes the verdict fail and ends with what was rejected", () => {
    const rejected: Finding["decision"] = {
      verdict: "rejected",
      by: "mira",
      reason: "",
      measured_kind: "line",
      measured_channel: null,
    };
    const findings = [
      finding("line", 0.99, rejected),
      finding("dust", 0.9),
      finding("mura", 0.99),
      finding("dead_pixel", 0.6),
      finding("dead_pixel", 0.8),
    ];
    const verdict = {
      criteria: [
        { result: "fail", kinds: ["dead_pixel"] },
        { result: "pass", kinds: ["mura"] },
      ],
    } as unknown as Verdict;
    expect(sorted(findings, verdict)).toEqual([4, 3, 2, 1, 0]);
    expect(sorted(findings, undefined)).toEqual([2, 4, 3, 1, 0]);
  });
});
