import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import { BrightnessPlot } from "./BrightnessPlot";

test("steps are told in words, pulses by their shape, and what was not measured is not drawn", () => {
  const steps = [
    { percent: 0, light: null, bars: false },
    { percent: 50, light: 0.4, bars: true },
    { percent: 100, light: 1, bars: false },
  ];
  const html = renderToStaticMarkup(<BrightnessPlot steps={steps} uncertainty={0.1} />);
  expect(html).toContain("Light at 50 %: 40 %, pulsing; 100 %: 100 %");
  expect(html.match(/<circle/g)).toHaveLength(2);
  expect(html.match(/h4v6/g)).toHaveLength(2);
});
