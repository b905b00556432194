import { expect, test } from "vitest";
import { isBad, NOT_JUDGED, ownOf, textsOf } from "./TouchLimits";

test("what is left empty is the shipped limit, what is not judged is stored as such", () => {
  expect(ownOf({ gap_ms: "", rate_hz: "60", offset_mm: NOT_JUDGED, jitter_rest_mm: "0,4" })).toEqual({
    rate_hz: 60,
    offset_mm: null,
    jitter_rest_mm: 0.4,
  });
  expect(textsOf({ rate_hz: 60, offset_mm: null })).toEqual({ rate_hz: "60", offset_mm: NOT_JUDGED });
  expect(textsOf(undefined)).toEqual({});
});

test("only numbers above nothing are limits", () => {
  expect(["", NOT_JUDGED, "0,5", "40"].map(isBad)).toEqual([false, false, false, false]);
  expect(["x", "0", "-1", "1001"].map(isBad)).toEqual([true, true, true, true]);
});
