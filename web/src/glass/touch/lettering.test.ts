import { expect, test } from "vitest";
import { between, broken } from "./lettering";

test("words are broken where the line is full, and a long word stands alone", () => {
  expect(broken("lay a finger on the ring", 12, (text) => text.length)).toEqual(["lay a finger", "on the ring"]);
  expect(broken("unbreakable a", 5, (text) => text.length)).toEqual(["unbreakable", "a"]);
  expect(broken("", 5, (text) => text.length)).toEqual([]);
});

test("lines lie between the rows of cells", () => {
  const lines = between(["one", "two"], 10, 100, 2000, 0.3);
  expect(lines.map((line) => line.y)).toEqual([610, 710]);
});
