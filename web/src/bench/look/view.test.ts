import { expect, test } from "vitest";
import {
  asText,
  distanceWords,
  fitted,
  fromText,
  held,
  levelFor,
  MOST_ZOOM,
  pitchOf,
  scaleBar,
  tilesIn,
  toPanel,
  toWindow,
  zoomed,
} from "./view";

const panel = { width: 1920, height: 1080 };
const window = { width: 1000, height: 600 };
const cut = { scale: 2, levels: 4, tile_px: 512 };

test("what is under the finger stays there while it is zoomed", () => {
  const at = { x: 130, y: 480 };
  const before = fitted(panel, window);
  const under = toPanel(at, before, window);
  const after = toWindow(under, zoomed(before, 3.7, at, window), window);
  expect(after.x).toBeCloseTo(at.x, 6);
  expect(after.y).toBeCloseTo(at.y, 6);
  expect(zoomed(before, 1e6, at, window).zoom).toBe(MOST_ZOOM);
});

test("the whole panel fits, and the view stays on it", () => {
  const view = fitted(panel, window);
  const corner = toWindow({ x: -0.5, y: -0.5 }, view, window);
  expect(corner.x).toBeGreaterThan(0);
  expect(corner.y).toBeGreaterThan(0);
  expect(held({ x: -900, y: 5000, zoom: 0.001 }, panel, window)).toEqual({ x: -0.5, y: 1079.5, zoom: view.zoom / 2 });
});

test("tiles cover the window without a gap, at a level that suits the display", () => {
  expect(levelFor(cut, 0.5, 1)).toBe(2);
  expect(levelFor(cut, 0.5, 2)).toBe(1);
  expect(levelFor(cut, 8, 1)).toBe(0);
  expect(levelFor(cut, 0.01, 1)).toBe(3);
  const all = tilesIn(cut, 0, panel, fitted(panel, window), window);
  expect(all).toHaveLength(8 * 5);
  expect(all.reduce((sum, one) => sum + one.width * one.height, 0)).toBe(1920 * 1080);
  const near = tilesIn(cut, 0, panel, { x: 256, y: 300, zoom: 10 }, window);
  expect(near.map((one) => [one.column, one.row])).toEqual([
    [0, 1],
    [1, 1],
  ]);
  expect(near[1]?.left).toBe(255.5);
});

test("a scale bar is 1, 2 or 5 of something and fits", () => {
  const pitch = pitchOf(panel, 15.6);
  expect(pitch).toBeCloseTo(0.1799, 4); // 15.6 in at 1920 x 1080: 344 mm wide (arithmetic)
  for (const zoom of [0.3, 0.5, 1, 2.7, 9, 40]) {
    const bar = scaleBar(zoom, pitch);
    expect(bar.px).toBeGreaterThan(55);
    expect(bar.px).toBeLessThanOrEqual(150);
    expect(bar.words).toMatch(/^(0\.)?0*[125]0* mm$/);
  }
  expect(scaleBar(0.5, null).words).toBe("200 px");
});

test("a distance is told no more exactly than it is known", () => {
  const pitch = pitchOf(panel, 15.6);
  expect(distanceWords({ x: 0, y: 0 }, { x: 1919, y: 0 }, 0.5, pitch)).toBe("345 ± 2 mm (345 across, 0 down; 1919 px)");
  expect(distanceWords({ x: 10, y: 10 }, { x: 13, y: 14 }, 8, pitch)).toBe("0.9 ± 0.2 mm (0.5 across, 0.7 down; 5 px)");
  expect(distanceWords({ x: 10, y: 10 }, { x: 13, y: 14 }, 8, null)).toBe("5 ± 1 px (3 across, 4 down)");
});

test("a view goes into the address and comes back", () => {
  expect(fromText(asText({ x: 12.25, y: 900, zoom: 3.5 }))).toEqual({ x: 12.25, y: 900, zoom: 3.5 });
  expect(fromText("1,2")).toBeNull();
  expect(fromText("a,2,3")).toBeNull();
  expect(fromText(null)).toBeNull();
});
