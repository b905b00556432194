import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import { Pane, type PaneFinding } from "./Pane";

const panel = { width: 1280, height: 800 };
const dot = (over: Partial<PaneFinding>): PaneFinding => ({
  kind: "dead_pixel",
  x: 10,
  y: 20,
  w: 1,
  h: 1,
  confidence: 0.9,
  ...over,
});

describe("the pane", () => {
  it("names every finding in words", () => {
    const html = renderToStaticMarkup(
      <Pane
        panel={panel}
        label="Pane"
        findings={[dot({}), dot({ kind: "bright_subpixel", channel: "red", x: 640 })]}
      />,
    );
    expect(html).toContain("dead pixel at 10, 20");
    expect(html).toContain("bright subpixel, red at 640, 20");
  });
  it("shades dark extents, lightens bright ones and only outlines faint ones", () => {
    const drawn = (over: Partial<PaneFinding>) =>
      renderToStaticMarkup(
        <Pane panel={panel} label="Pane" findings={[dot({ w: 200, h: 100, x: 600, y: 400, ...over })]} />,
      );
    expect(drawn({ kind: "dark_zone" })).toContain('fill="#000" fill-opacity="0.5"');
    expect(drawn({ kind: "bright_zone" })).toContain('fill="#fff" fill-opacity="0.25"');
    expect(drawn({ kind: "mura" })).toContain('stroke-dasharray="7 7"');
    expect(drawn({ kind: "line", contrast: 0.4 })).toContain('fill="#fff" fill-opacity="0.6"');
    expect(drawn({ kind: "line", contrast: -0.4 })).toContain('fill="#000" fill-opacity="0.75"');
    expect(drawn({ kind: "discoloration" })).toContain("tint at 600, 400");
  });
  it("says what an empty pane means", () => {
    expect(
      renderToStaticMarkup(<Pane panel={panel} label="Pane" findings={[]} empty="Nothing photographed yet" />),
    ).toContain("Nothing photographed yet");
  });
  it("hatches only what is not proven", () => {
    const html = renderToStaticMarkup(
      <Pane
        panel={panel}
        label="Pane"
        findings={[]}
        unproven={[
          [0, 0, 0.2],
          [1, 0, 0.95],
        ]}
      />,
    );
    expect(html.match(/fill="url\(#/g)?.length).toBe(1);
  });
  it("rings what is new and marks what is chosen", () => {
    const plain = renderToStaticMarkup(<Pane panel={panel} label="Pane" findings={[dot({})]} />);
    const fresh = renderToStaticMarkup(<Pane panel={panel} label="Pane" findings={[dot({})]} fresh={new Set([0])} />);
    const chosen = renderToStaticMarkup(<Pane panel={panel} label="Pane" findings={[dot({})]} selected={0} />);
    expect(new Set([plain, fresh, chosen]).size).toBe(3);
  });
  it("draws a line over its whole length", () => {
    const html = renderToStaticMarkup(
      <Pane panel={panel} label="Pane" findings={[dot({ kind: "line", x: 640, y: 399.5, w: 1, h: 800 })]} />,
    );
    expect(html).toContain('height="625"');
  });
});
