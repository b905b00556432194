import { describe, expect, it } from "vitest";
import { GREYS, makeTheme, TARGET_PX, type Mode } from "./theme";

// WCAG 2.2: relative luminance and contrast ratio
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5].map((at) => {
    const value = parseInt(hex.slice(at, at + 2), 16) / 255;
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}
const contrast = (a: string, b: string): number => {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
  return (light + 0.05) / (dark + 0.05);
};

describe.each(["dark", "light"] as Mode[])("the %s look", (mode) => {
  const theme = makeTheme(mode);
  const grounds = [GREYS[mode].ground, GREYS[mode].raised];

  it("keeps all text readable on both grounds", () => {
    const words = [
      theme.palette.text.primary,
      theme.palette.text.secondary,
      theme.palette.primary.main,
      theme.palette.error.main,
      theme.palette.warning.main,
      theme.palette.success.main,
    ];
    for (const ground of grounds)
      for (const colour of words) expect(contrast(colour, ground)).toBeGreaterThanOrEqual(4.5);
  });
  it("keeps button labels readable, hovered or not", () => {
    const { main, dark, contrastText } = theme.palette.primary;
    expect(contrast(main, contrastText)).toBeGreaterThanOrEqual(4.5);
    expect(contrast(dark, contrastText)).toBeGreaterThanOrEqual(4.5);
  });
  it("puts no colour cast beside the pane", () => {
    for (const grey of Object.values(GREYS[mode]))
      expect(new Set([grey.slice(1, 3), grey.slice(3, 5), grey.slice(5, 7)]).size).toBe(1);
  });
});

it("has targets for gloved fingers", () => {
  expect(TARGET_PX).toBeGreaterThanOrEqual(44);
});
