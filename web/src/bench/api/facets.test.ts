import { QueryClient } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";
import { applyAnswer, staleParts } from "./facets";

const answer = (version: number) => ({
  id: 7,
  version,
  stations: [],
  isolate: { evidence: [], diagnosis: {} },
  documents: null,
});

describe("the parts of a job", () => {
  it("a change brings its own along, so that its event costs no request", () => {
    const queries = new QueryClient();
    expect(applyAnswer(queries, 7, answer(4))).toBe(true);
    expect(queries.getQueryData(["job", 7, "head"])).toEqual({ id: 7, version: 4, stations: [] });
    expect(queries.getQueryData(["job", 7, "isolate"])).toEqual({ evidence: [], diagnosis: {} });
    expect(queries.getQueryData(["job", 7, "documents"])).toBeUndefined();
    expect(staleParts(7, ["isolate"], 4)).toEqual([]);
  });

  it("what somebody else changed is read anew, and only that", () => {
    const queries = new QueryClient();
    applyAnswer(queries, 8, answer(4));
    expect(staleParts(8, ["isolate"], 5)).toEqual(["head", "isolate"]);
    expect(staleParts(8, ["pictures"], undefined)).toEqual(["head", "pictures"]);
    expect(staleParts(8, null, 5)).toBeNull();
    expect(staleParts(8, null, 4)).toEqual([
      "pictures",
      "touch",
      "comparisons",
      "documents",
      "match",
      "buying",
      "fit",
      "proving",
    ]);
    expect(staleParts(9, [], 1)).toEqual(["head"]);
  });

  it("an answer that was overtaken does not take the head back", () => {
    const queries = new QueryClient();
    applyAnswer(queries, 7, answer(6));
    applyAnswer(queries, 7, answer(5));
    expect(queries.getQueryData<{ version: number }>(["job", 7, "head"])?.version).toBe(6);
    expect(applyAnswer(queries, 7, { offers: [] })).toBe(false);
  });

  it("takes over a facet that a change gives back by itself, and asks for nothing else", () => {
    const queries = new QueryClient();
    expect(applyAnswer(queries, 9, { way_back: [], steps: [] })).toBe(true);
    expect(queries.getQueryData(["job", 9, "fit"])).toEqual({ way_back: [], steps: [] });
    expect(applyAnswer(queries, 9, { id: 1 })).toBe(false);
  });

  it("is not put back by what was asked for before it", async () => {
    const queries = new QueryClient();
    const key = ["job", 11, "buying"];
    let answerOld: (data: unknown) => void = () => undefined;
    const old = queries
      .fetchQuery({ queryKey: key, queryFn: () => new Promise((resolve) => (answerOld = resolve)) })
      .catch(() => "left");
    applyAnswer(queries, 11, { ranked: [], promises: ["Friday"] });
    answerOld({ ranked: [], promises: [] });
    await old;
    expect(queries.getQueryData(key)).toEqual({ ranked: [], promises: ["Friday"] });
  });
});
