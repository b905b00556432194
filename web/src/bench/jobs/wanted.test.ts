import { describe, expect, it } from "vitest";
import { narrowed, wantedOf, withChoice } from "./wanted";

describe("a list's address", () => {
  it("holds what was chosen, and nothing that is usual", () => {
    let params = withChoice(new URLSearchParams(), "station", "fit");
    params = withChoice(params, "q", "ticket");
    params = withChoice(params, "state", "open");
    expect(params.toString()).toBe("station=fit&q=ticket");
    expect(wantedOf(params)).toEqual({ station: "fit", q: "ticket" });
    expect(narrowed(params)).toBe(1);
    expect(withChoice(withChoice(params, "station", ""), "q", "").toString()).toBe("");
  });

  it("takes no notice of what it does not know", () => {
    expect(wantedOf(new URLSearchParams("colour=red&sort=due"))).toEqual({ sort: "due" });
  });
});
