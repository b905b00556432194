import { describe, expect, it } from "vitest";
import { nextMissing } from "./stepping";

const SET = ["white", "black", "red", "green"];

describe("stepping on by itself", () => {
  it("goes to the next pattern without a photo, round the set", () => {
    expect(nextMissing(SET, new Set(), "white")).toBe("black");
    expect(nextMissing(SET, new Set(["black"]), "white")).toBe("red");
    expect(nextMissing(SET, new Set(["red"]), "green")).toBe("white");
  });
  it("stays when all are photographed", () => {
    expect(nextMissing(SET, new Set(SET), "white")).toBeNull();
    expect(nextMissing(SET, new Set(["black", "red", "green"]), "white")).toBeNull();
  });
});
