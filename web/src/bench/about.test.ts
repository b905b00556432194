import { expect, test } from "vitest";
import { aboutLight } from "./about";

test("a luminance known to a factor is told with its bounds and no more figures than are known", () => {
  expect(aboutLight({ cd_m2: 327.4, factor: 1.5 })).toBe("about 330 cd/m², 220 to 490");
  expect(aboutLight({ cd_m2: 8.04, factor: 2 })).toBe("about 8 cd/m², 4 to 16");
});
