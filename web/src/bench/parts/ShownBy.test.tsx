import { renderToString } from "react-dom/server";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import { RUNGS, ShownBy } from "./ShownBy";

test("every way to show patterns says how and what it proves, and pictures come as a ZIP", () => {
  const html = renderToString(
    <MemoryRouter>
      <ShownBy runId={7} jobId={3} onPage={() => undefined} />
    </MemoryRouter>,
  );
  expect(html).toContain("/api/runs/7/patterns.zip");
  expect(html).toContain("What can it show?");
  for (const rung of Object.values(RUNGS)) {
    expect(rung.how.length).toBeGreaterThan(1);
    expect(rung.proves).toMatch(/^(Measured|Seen|Nothing)/);
  }
});
