import { expect, test } from "vitest";
import { paced, waitWords } from "./waiting";

test("the time that is left follows the pace of the photos that were read", () => {
  let pace = paced(null, 6, 0);
  expect(waitWords(pace, 0)).toBe("6 photos wait to be read.");
  pace = paced(pace, 4, 10_000); // two in 10 s: 5 s each, 20 s for the other four
  expect(waitWords(pace, 10_000)).toBe("4 photos wait to be read, about 20 s.");
  pace = paced(pace, 5, 11_000); // one more came: none was read by that
  expect(pace?.read).toBe(2);
  pace = paced(pace, 1, 30_000);
  expect(waitWords(pace, 30_000)).toBe("1 photo waits to be read, about 5 s.");
  expect(paced(pace, 0, 31_000)).toBeNull();
  expect(waitWords(null, 0)).toBe("");
});
