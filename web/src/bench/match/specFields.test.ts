import { describe, expect, it } from "vitest";
import { briefly, fieldsOfBack, fillIn, specOf, textsOf } from "./specFields";

describe("a panel's fields", () => {
  it("are read as people write them, and empty ones stay unknown", () => {
    const { spec, wrong } = specOf({
      width: "1366",
      outline_mm: "320,4 x 188.1",
      touch: "false",
      signal: "eDP",
      lanes: "",
    });
    expect(spec).toEqual({ other_numbers: [], width: 1366, outline_mm: [320.4, 188.1], touch: false, signal: "eDP" });
    expect(wrong).toEqual([]);
    expect(specOf(textsOf(spec)).spec).toEqual(spec);
  });

  it("take lengths in other units", () => {
    expect(specOf({ thickness_mm: "0.2 in", outline_mm: "12.6 in x 18,8 cm" }).spec).toEqual({
      other_numbers: [],
      thickness_mm: 5.08,
      outline_mm: [320.04, 188],
    });
    expect(specOf({ thickness_mm: "3 miles" }).wrong).toEqual(["Thickness (mm)"]);
  });

  it("that cannot be read are named", () => {
    expect(specOf({ width: "wide", outline_mm: "320" }).wrong).toEqual([
      "Width (px)",
      "Outline (mm), such as 320.4 x 188.1",
    ]);
  });

  it("are filled in by a photo of the back as far as it tells", () => {
    const told = {
      outline_mm: [350.7, 205.2] as [number, number],
      uncertainty_mm: 0.6,
      connector: { side: "right" as const, edge: "bottom" as const, pins: 30, pitch_mm: 0.5 },
      mounting: null,
      problems: [],
    };
    expect(fieldsOfBack(told)).toEqual({
      outline_mm: "350.7 x 205.2",
      connector_side: "right",
      connector_edge: "bottom",
      connector_pins: "30",
    });
    const nothing = { side: null, edge: null, pins: null, pitch_mm: null };
    expect(fieldsOfBack({ ...told, outline_mm: null, connector: nothing })).toEqual({});
  });

  it("keep what a stronger source told", () => {
    const own = { width: "1366", lanes: "2", refresh_hz: "60" };
    const filled = fillIn(
      own,
      { width: "measured", lanes: "supplier" },
      { width: "1920", lanes: "4", height: "768" },
      "supplier",
    );
    expect(filled.texts).toEqual({ width: "1366", lanes: "4", refresh_hz: "60", height: "768" });
    expect(filled.from).toEqual({ width: "measured", lanes: "supplier", height: "supplier" });
    expect(filled.kept).toEqual(["Width (px)"]);
  });

  it("say briefly what a panel is", () => {
    expect(briefly({ width: 1366, height: 768, signal: "eDP", connector_pins: 30, connector_side: "right" })).toBe(
      "1366 x 768, eDP, 30 pins, right",
    );
    expect(briefly({})).toBe("size unknown");
  });
});
