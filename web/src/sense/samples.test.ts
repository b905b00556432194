import { describe, expect, it } from "vitest";
import { asLuma, asPcm, asText } from "./samples";

describe("what is sent of a recording", () => {
  it("is 16-bit, little-endian, cut at full scale", () => {
    expect([...asPcm(new Float32Array([0, 1, -2, 0.5]))]).toEqual([0, 0, 255, 127, 1, 128, 0, 64]);
  });

  it("is the luma of each pixel", () => {
    expect([...asLuma(new Uint8ClampedArray([255, 255, 255, 255, 0, 0, 0, 255, 255, 0, 0, 255]))]).toEqual([
      255, 0, 76,
    ]);
  });

  it("is base64, however long", () => {
    const bytes = new Uint8Array(20_000).map((_, at) => at % 251);
    expect(atob(asText(bytes)).length).toBe(20_000);
    expect(asText(new Uint8Array([1, 2, 3]))).toBe("AQID");
  });
});
