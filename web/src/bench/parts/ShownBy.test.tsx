import { renderToString } from "react-dom/server";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import type { Run } from "../api/client";
import { RUNGS, ShownBy, stickCommand } from "./ShownBy";

test("every way to show patterns says how and what it proves, and pictures come as a ZIP", () => {
  const run = { id: 7, run_code: 41, pattern_set: "standard", screen: { width: 1366, height: 768 } } as Run;
  const html = renderToString(
    <MemoryRouter>
      <ShownBy run={run} jobId={3} onPage={() => undefined} onHome={() => undefined} />
    </MemoryRouter>,
  );
  expect(html).toContain("/api/runs/7/patterns.zip");
  expect(html).toContain("What can it show?");
  expect(stickCommand(run)).toBe("./clear-lens stick --panel 1366x768 --inspection 41 --out stick.img");
  expect(stickCommand({ ...run, pattern_set: "" })).toContain("--set own-set.yaml");
  for (const rung of Object.values(RUNGS)) {
    expect(rung.how.length).toBeGreaterThan(1);
    expect(rung.proves).toMatch(/^(Measured|Seen|Nothing)/);
  }
});
