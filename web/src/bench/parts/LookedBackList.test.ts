import { expect, test } from "vitest";
import { shareWords } from "./LookedBackList";

test("a share is told no more precisely than it is", () => {
  expect(shareWords({ share: 0.196, sigma: 0.16 })).toBe("0.2 ± 0.2 of a full fault");
  expect(shareWords({ share: 0.064, sigma: 0.027 })).toBe("0.06 ± 0.03 of a full fault");
  expect(shareWords({ share: -0.01, sigma: 0.003 })).toBe("0.00 ± 0.01 of a full fault");
  expect(shareWords({ share: 0, sigma: 99 })).toBe("no photo of then shows this place");
});
