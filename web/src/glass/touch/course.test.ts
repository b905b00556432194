import { expect, test } from "vitest";
import { alongPath, Course, TAIL_MS, type Step } from "./course";
import type { Row } from "./samples";

const PANEL = { width: 400, height: 800 };
const GRID = { columns: 4, rows: 8, hidden: [[0, 0]] as [number, number][] };
const step = (id: string, kind: Step["kind"], path: [number, number][] = [], took = 1000): Step => ({
  id,
  kind,
  path,
  start_ms: 0,
  end_ms: took,
  charging: null,
  fingers: null,
});
const LINE = step("line", "guided_path", [
  [50, 50],
  [350, 50],
]);
const SOAK = step("soak", "hands_off");
const at = (t: number, x: number, y: number, ev: Row[2]): Row => [t, 1, ev, x, y, null, null, null];

/** Drives a course by the verbs of a person. */
class Finger {
  recorded: Step[] = [];
  now = 1000;
  course: Course;
  constructor(steps: Step[], done: string[] = []) {
    this.course = new Course(PANEL, GRID, steps, done, (one) => {
      this.recorded.push(one);
    });
  }
  touch(x: number, y: number, ev: Row[2] = "move") {
    this.course.take([at(this.now, x, y, ev)], this.now);
    return this;
  }
  wait(ms: number) {
    this.now += ms;
    this.course.tick(this.now);
    return this;
  }
}

test("a finger on the ring starts the dot, and the step is kept with its true times", () => {
  const finger = new Finger([LINE, SOAK]);
  finger.touch(200, 400, "down");
  expect(finger.course.phase).toBe("ready");
  finger.touch(60, 55, "down").wait(500);
  expect(finger.course.dot(finger.now)).toEqual([200, 50]);
  finger.touch(190, 52).wait(500 + TAIL_MS);
  expect(finger.recorded).toEqual([{ ...LINE, start_ms: 1000, end_ms: 2000 }]);
  expect(finger.course.step?.id).toBe("soak");
});

test("when nothing was felt the person is asked, and only a drawn step is kept", () => {
  const finger = new Finger([LINE]);
  finger.course.do("go", finger.now);
  finger.wait(2000);
  expect([finger.course.phase, finger.recorded.length]).toEqual(["asking", 0]);
  finger.course.do("back", finger.now);
  expect(finger.course.phase).toBe("ready");
  finger.course.do("go", finger.now);
  finger.wait(2000);
  finger.course.do("go", finger.now);
  expect([finger.course.phase, finger.recorded.length]).toEqual(["end", 1]);
});

test("hands off: what comes is counted and is no drawing; silence needs no question", () => {
  const finger = new Finger([SOAK]);
  finger.touch(200, 400, "down");
  expect(finger.course.phase).toBe("ready");
  finger.course.do("go", finger.now);
  finger.wait(10).touch(10, 10, "down").touch(11, 10).wait(1000);
  expect([finger.course.unasked, finger.recorded.length, finger.course.phase]).toEqual([1, 1, "end"]);
});

test("the finger that strays is told, one that lags is not", () => {
  const finger = new Finger([LINE]);
  finger.touch(50, 50, "down").wait(900).touch(200, 60);
  expect(finger.course.strayed).toBe(false);
  finger.touch(200, 600);
  expect(finger.course.strayed).toBe(true);
});

test("what is left counts cells without a report, hidden ones not", () => {
  const finger = new Finger([LINE]);
  expect(finger.course.left).toBe(31);
  finger.touch(50, 50, "down").touch(350, 750).touch(50, 150);
  expect(finger.course.left).toBe(29);
});

test("after a reload it goes on behind what is done, and steps that are added later wake it again", () => {
  const finger = new Finger([LINE, SOAK], ["line", "soak"]);
  expect(finger.course.phase).toBe("end");
  finger.course.extend(
    [
      LINE,
      SOAK,
      step("again", "guided_path", [
        [0, 0],
        [9, 9],
      ]),
    ],
    ["line", "soak"],
  );
  expect([finger.course.phase, finger.course.step?.id]).toEqual(["ready", "again"]);
});

test("back and skip move between steps and keep nothing", () => {
  const finger = new Finger([LINE, SOAK]);
  finger.course.do("skip", 0);
  expect(finger.course.step?.id).toBe("soak");
  finger.course.do("go", finger.now);
  finger.course.do("back", finger.now);
  expect(finger.course.phase).toBe("ready");
  finger.course.do("back", finger.now);
  expect([finger.course.step?.id, finger.recorded.length]).toEqual(["line", 0]);
});

test("a path is walked at an even pace around its corners", () => {
  expect(
    alongPath(
      [
        [0, 0],
        [30, 0],
        [30, 10],
      ],
      0.875,
    ),
  ).toEqual([30, 5]);
  expect(
    alongPath(
      [
        [0, 0],
        [30, 0],
      ],
      2,
    ),
  ).toEqual([30, 0]);
});
