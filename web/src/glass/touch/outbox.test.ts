import { expect, test, vi } from "vitest";
import { Outbox, type Part } from "./outbox";

const content = (t: number) => ({
  events: [[t, 1, "move", 1, 1, null, null, null] as never],
  steps: [],
  origin_ms: 0,
  now: {},
});

test("parts go one after the other, each until it is acknowledged, through failures of every kind", async () => {
  vi.useFakeTimers();
  const got: Part[] = [];
  const answers = ["lost", 503, 201, "lost", 200, 201];
  const waiting: number[] = [];
  const outbox = new Outbox(
    "a.1",
    (part) => {
      got.push(part);
      const answer = answers.shift();
      return answer === "lost" ? Promise.reject(new Error("network")) : Promise.resolve(answer as number);
    },
    (left) => {
      waiting.push(left);
    },
  );
  [1, 2, 3].forEach((t) => {
    outbox.add(content(t));
  });
  await vi.advanceTimersByTimeAsync(20_000);
  expect(got.map((part) => part.number)).toEqual([0, 0, 0, 1, 1, 2]);
  expect(new Set(got.map((part) => part.sender)).size).toBe(1);
  expect(waiting.at(-1)).toBe(0);
  vi.useRealTimers();
});

test("what the server refuses is dropped and said, and the next goes on", async () => {
  const refusals: boolean[] = [];
  const statuses = [422, 201];
  const outbox = new Outbox(
    "a.2",
    () => Promise.resolve(statuses.shift() ?? 201),
    (_, refused) => {
      refusals.push(refused);
    },
  );
  outbox.add(content(1));
  outbox.add(content(2));
  await vi.waitFor(() => {
    expect(outbox.waiting).toBe(0);
  });
  expect(refusals.filter(Boolean)).toHaveLength(1);
});

test("ten fingers at 240 Hz for a minute over a bad network: every event arrives once, in order", async () => {
  vi.useFakeTimers();
  let dice = 7;
  const roll = () => {
    dice = (dice * 16807) % 2147483647;
    return dice / 2147483647;
  };
  const stored = new Map<string, Part>(); // as the server keeps parts: by sender and number, once
  const outbox = new Outbox(
    "a.3",
    (part) => {
      const luck = roll();
      if (luck < 0.2) return Promise.reject(new Error("lost on the way"));
      stored.set(`${part.sender}.${part.number}`, part);
      return luck < 0.4 ? Promise.reject(new Error("the answer was lost")) : Promise.resolve(luck < 0.5 ? 503 : 201);
    },
    () => undefined,
  );
  const events = Array.from(
    { length: 10 * 240 * 60 },
    (_, n) => [Math.floor(n / 10) * (1000 / 240), n % 10, "move", 1, 1, null, null, null] as never,
  );
  for (let at = 0; at < events.length; at += 1200)
    outbox.add({ events: events.slice(at, at + 1200), steps: [], origin_ms: 0, now: {} });
  await vi.advanceTimersByTimeAsync(3_600_000);
  const arrived = [...stored.values()].sort((a, b) => a.number - b.number).flatMap((part) => part.events);
  expect(arrived).toHaveLength(events.length);
  expect(arrived).toEqual(events);
  vi.useRealTimers();
});
