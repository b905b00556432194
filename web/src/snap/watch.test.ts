import { describe, expect, it } from "vitest";
import { Course, Watch, movedShare, type Told } from "./watch";

const CORNERS: [number, number][] = [
  [100, 100],
  [1100, 100],
  [1100, 700],
  [100, 700],
];
const told = (sign: string, fields: Partial<Told> = {}): Told => ({
  sign,
  detail: "",
  may_stay: ["closer", "tilted", "brighter", "darker", "reflection", "blurred"].includes(sign),
  corners: CORNERS,
  at: null,
  px_per_px: 0.6,
  pattern: "white",
  title: "White",
  step: 1,
  ...fields,
});
const shifted = (by: number) => CORNERS.map(([x, y]): [number, number] => [x + by, y]);

describe("the guided camera's moment", () => {
  it("shoots a steady good picture once the automatics have settled", () => {
    const watch = new Watch();
    const shots = [0, 150, 300, 450, 600, 750, 900].filter((at) => watch.judge(told("good"), at, 1280).shoot);
    expect(shots).toEqual([900]);
  });
  it("waits while the hand moves, and says so", () => {
    const watch = new Watch();
    for (let n = 0; n < 20; n += 1) {
      const verdict = watch.judge(told("good", { corners: shifted(15 * n) }), 150 * n, 1280);
      expect(verdict).toMatchObject({ sign: "moving", shoot: false });
    }
    const still = [0, 1, 2].map((n) => watch.judge(told("good", { corners: shifted(15 * 19) }), 3000 + 150 * n, 1280));
    expect(still.map((verdict) => verdict.shoot)).toEqual([false, true, true]);
  });
  it("waits for ever for what makes a photo useless", () => {
    for (const sign of ["no_panel", "other_pattern", "other_inspection", "cut_off", "too_dark"]) {
      const watch = new Watch();
      for (let at = 0; at < 60000; at += 200) expect(watch.judge(told(sign), at, 1280).shoot).toBe(false);
    }
  });
  it("takes what may be the panel's own fault after a while, if the hand is still", () => {
    const watch = new Watch();
    let first = 0;
    for (let at = 0; at < 20000 && !first; at += 200) if (watch.judge(told("reflection"), at, 1280).shoot) first = at;
    expect(first).toBeGreaterThanOrEqual(6000);
    expect(first).toBeLessThan(7000);
  });
  it("begins anew with each pattern", () => {
    const watch = new Watch();
    for (let at = 0; at <= 1000; at += 200) watch.judge(told("good"), at, 1280);
    expect(watch.judge(told("good", { step: 2 }), 1200, 1280).shoot).toBe(false);
    expect(watch.judge(told("good", { step: 2 }), 1400, 1280).shoot).toBe(false);
  });
  it("measures a move in shares of the frame", () => {
    expect(movedShare(shifted(64), CORNERS, 1280)).toBeCloseTo(0.05);
    expect(movedShare([], CORNERS, 1280)).toBe(Infinity);
  });
});

describe("the course of a set", () => {
  const set = ["white", "black", "red"];
  it("leaves out what has a good photo, or shoots all anew when all have one", () => {
    expect(new Course(set, ["black", "other"]).left).toEqual(["white", "red"]);
    expect(new Course(set, set).left).toEqual(set);
  });
  it("steps forward past what is shot, and round the end", () => {
    const course = new Course(set, []);
    course.took("black", "1");
    expect([course.stepsFrom("white"), course.stepsFrom("black"), course.stepsFrom("red")]).toEqual([0, 1, 0]);
    course.took("red", "2");
    expect(course.stepsFrom("red")).toBe(1);
    course.took("white", "3");
    expect(course.stepsFrom("red")).toBe(0);
    expect(course.waiting([{ key: "1", status: "read" }])).toBe(2);
  });
  it("shoots a refused photo again, but not for ever", () => {
    const course = new Course(set, []);
    for (let n = 1; n <= 3; n += 1) {
      course.took("white", `key${n}`);
      const why = course.refused([{ key: `key${n}`, status: "refused", problems: ["Blurred."] }]);
      expect(why).toBe("Blurred.");
      expect(course.left.includes("white")).toBe(n <= 2);
      expect(course.lost).toEqual(n <= 2 ? [] : ["white"]);
    }
    expect(course.refused([{ key: "key3", status: "refused", problems: ["Blurred."] }])).toBe("");
  });
});
