import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import { outline, strokePath, TouchLayer } from "./TouchLayer";

const PANEL = { width: 500, height: 1000 };

test("dead, unproven and phantom are told by shape and word", () => {
  const html = renderToStaticMarkup(
    <svg>
      <TouchLayer
        panel={PANEL}
        columns={5}
        rows={10}
        zones={[
          { kind: "corner", cells: [[4, 9]], intermittent: false },
          { kind: "row", cells: [[0, 0]], intermittent: true },
        ]}
        unproven={[
          [1, 1],
          [2, 2],
        ]}
        suspected={[[2, 2]]}
        phantoms={[{ x: 10, y: 10, events: 4, kind: "fixed_spot" }]}
      />
    </svg>,
  );
  for (const words of [
    "does not answer: corner",
    "answers at times: row",
    "not proven",
    "silent once",
    "4 events that nobody made: fixed spot",
  ])
    expect(html).toContain(words);
});

test("an outline leaves out the lines between cells of one zone", () => {
  expect(
    outline(
      [
        [0, 0],
        [1, 0],
      ],
      10,
      10,
    ).match(/M/g),
  ).toHaveLength(6);
});

test("a stroke is drawn as far as the replay has come", () => {
  const stroke = {
    points: [
      [0, 0, 0],
      [10, 50, 0],
      [20, 100, 0],
    ],
  };
  expect(strokePath(PANEL, stroke, -1)).toBe("");
  expect(strokePath(PANEL, stroke, 0)).toBe("M1.0 1.0h0.1");
  expect(strokePath(PANEL, stroke, 12).match(/L/g)).toHaveLength(1);
});
