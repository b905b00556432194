import { describe, expect, it } from "vitest";
import type { RankedOffer } from "../api/client";
import { dotsOf } from "./tradeOff";

const offer = (offer_id: number, cost: string | null, ready_on: string | null): RankedOffer => ({
  offer_id,
  cost,
  ready_on,
  parts: [],
  chance_in_time: null,
  dead_rate: null,
  dead_range: null,
  orders: 0,
  best: false,
  problem: "",
});

describe("cost against day", () => {
  it("puts the cheap one below, the late one to the right", () => {
    const [cheap, fast] = dotsOf([offer(1, "50.00", "2026-12-08"), offer(2, "90.00", "2026-12-01")], 100, 60);
    expect([cheap?.x, cheap?.y, fast?.x, fast?.y]).toEqual([100, 60, 0, 0]);
  });
  it("leaves out what cannot be compared, and stands alone in its corner", () => {
    expect(dotsOf([offer(1, null, null)], 100, 60)).toEqual([]);
    expect(dotsOf([offer(1, "50.00", "2026-12-01")], 100, 60)[0]).toMatchObject({ x: 0, y: 60 });
  });
});
