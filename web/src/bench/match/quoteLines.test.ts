import { describe, expect, it } from "vitest";
import { isMoney, linesOf, netOf, type Typed } from "./quoteLines";

const line = (amount: string): Typed => ({ kind: "extra", title: " Bezel ", amount, minutes: null });

describe("lines of a quote", () => {
  it("adds hundredths, not fractions", () => {
    expect(netOf([line("0,10"), line("0.20"), line("59.5")])).toBe("59.80");
    expect(netOf([line("12,345")])).toBeNull();
  });
  it("takes money only", () => {
    expect(["-1", "1e3", "", "about 5", "1.234"].filter(isMoney)).toEqual([]);
    expect(linesOf([line("7,5")])).toEqual([{ kind: "extra", title: "Bezel", amount: "7.50", minutes: null }]);
  });
});
