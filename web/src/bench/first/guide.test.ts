import { expect, test } from "vitest";
import { STATIONS } from "../../pane/vocabulary.gen";
import type { Job, StationId } from "../api/client";
import { GUIDES } from "../stations/registry";
import { stepOfFirst } from "./guide";

const stations = (states: Partial<Record<StationId, string>>) =>
  (Object.keys(STATIONS) as StationId[])
    .filter((id) => id !== "grade")
    .map((id) => ({
      id,
      title: STATIONS[id].title,
      state: states[id] ?? "open",
      known: "",
      next: "",
    })) as Job["stations"];

test("every station that a device passes has its words", () => {
  expect(stations({}).filter((one) => !GUIDES[one.id])).toEqual([]);
});

test("what was measured is behind, be it good or bad", () => {
  const states = { intake: "done", isolate: "done", inspect: "failed" };
  expect(stepOfFirst(stations(states), GUIDES)).toEqual({ station: "match", number: 4, of: 7 });
});

test("a closed device must pass before it is handed over", () => {
  const before = { intake: "done", isolate: "done", inspect: "failed", match: "done", fit: "done" };
  expect(stepOfFirst(stations({ ...before, prove: "failed" }), GUIDES)?.station).toBe("prove");
  expect(stepOfFirst(stations({ ...before, prove: "done" }), GUIDES)?.station).toBe("hand_over");
  expect(stepOfFirst(stations({ ...before, prove: "done", hand_over: "done" }), GUIDES)).toBeNull();
});
