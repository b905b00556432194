import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Away } from "./away";
import { Problem } from "./client";

describe("a server that is away", () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it("is noticed by what fails, asked until it is back, and deeds that were lost are counted", async () => {
    const answers = [
      () => Promise.reject(new Error("refused")),
      () => Promise.resolve(false),
      () => Promise.resolve(true),
    ];
    let asked = 0;
    const away = new Away(() => (answers[asked++] ?? answers[2]!)());
    const told: boolean[] = [];
    away.listen(() => {
      told.push(away.read().away);
    });
    away.failed(new Problem(422, "wrong input", "invalid"), true);
    away.failed(new Error("a mistake of the page"), true);
    expect(away.read()).toEqual({ away: false, lost: 0 });
    away.failed(new Problem(0, "no answer", "offline"), false);
    away.failed(new Problem(503, "starting", "database-away"), true);
    expect(away.read()).toEqual({ away: true, lost: 1 });
    await vi.advanceTimersByTimeAsync(4100);
    expect(away.read().away).toBe(true);
    await vi.advanceTimersByTimeAsync(2000);
    expect(away.read()).toEqual({ away: false, lost: 1 });
    expect(asked).toBe(3);
    away.seen();
    expect(away.read().lost).toBe(0);
    expect(told.at(-1)).toBe(false);
  });
});
