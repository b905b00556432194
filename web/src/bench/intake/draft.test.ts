import { describe, expect, it } from "vitest";
import { answered, current, toSend, typed, type Draft } from "./draft";

describe("a field that stores itself", () => {
  it("goes on from what it stored while the page still shows the older job", () => {
    let draft: Draft | null = typed(null, "and then so", 7);
    expect(toSend(draft)?.version).toBe(7);
    draft = answered(draft, "and then so", 8);
    // the page has not caught up: the stored words are shown, nothing is to be sent
    expect(current(draft, 7)?.value).toBe("and then so");
    expect(toSend(draft)).toBeNull();
    draft = typed(draft, "and then som", 7);
    expect(toSend(draft)).toEqual({ value: "and then som", version: 8, clash: false });
  });

  it("shows the job's own value once the page has caught up, whoever wrote it", () => {
    const draft = answered(typed(null, "mine", 7), "mine", 8);
    expect(current(draft, 8)).toBeNull();
    expect(typed(draft, "theirs, and more", 9).version).toBe(9);
  });

  it("sends what was typed while it was sending, on the version just stored", () => {
    let draft: Draft | null = typed(null, "so", 7);
    draft = typed(draft, "some", 7);
    draft = answered(draft, "so", 8);
    expect(toSend(draft)).toMatchObject({ value: "some", version: 8 });
  });

  it("sends nothing after a clash until somebody types on", () => {
    const clash: Draft = { value: "mine", version: 7, clash: true };
    expect(toSend(clash)).toBeNull();
    expect(toSend(typed(clash, "mine again", 9))?.version).toBe(9);
  });
});
