import { afterEach, describe, expect, it, vi } from "vitest";
import { client, cookie, got, Problem, problemOf } from "./client";

const answer = (status: number, body: string, type = "application/problem+json") =>
  new Response(body, { status, headers: { "Content-Type": type } });

afterEach(() => {
  vi.unstubAllGlobals();
  document.cookie = "csrftoken=; max-age=0";
});

describe("failures", () => {
  it("carry the server's own sentence and code", async () => {
    const problem = await problemOf(
      answer(
        422,
        JSON.stringify({ type: "/problems/match-stop", status: 422, detail: "Stop: signal must agree.", errors: [] }),
      ),
    );
    expect([problem.status, problem.code, problem.message]).toEqual([422, "match-stop", "Stop: signal must agree."]);
  });
  it("are told by status when the answer is no problem of ours", async () => {
    expect((await problemOf(answer(502, "<html>", "text/html"))).message).toContain("502");
  });
  it("reach the caller as problems", async () => {
    vi.stubGlobal(
      "fetch",
      vi.fn(() =>
        Promise.resolve(
          answer(409, JSON.stringify({ type: "/problems/conflict", detail: "Somebody else changed it." })),
        ),
      ),
    );
    await expect(got(client.GET("/api/jobs"))).rejects.toMatchObject({
      status: 409,
      message: "Somebody else changed it.",
    });
  });
  it("of the network say that nothing is lost", async () => {
    vi.stubGlobal(
      "fetch",
      vi.fn(() => Promise.reject(new TypeError("failed"))),
    );
    await expect(got(client.GET("/api/jobs"))).rejects.toSatisfy(
      (error: unknown) => error instanceof Problem && error.message.includes("what you entered stays here"),
    );
  });
});

describe("requests", () => {
  it("carry the CSRF token when they change something", async () => {
    document.cookie = "csrftoken=abc123";
    const sent: Request[] = [];
    vi.stubGlobal(
      "fetch",
      vi.fn((request: Request) => {
        sent.push(request);
        return Promise.resolve(answer(200, "[]", "application/json"));
      }),
    );
    await got(client.GET("/api/jobs"));
    await got(client.POST("/api/jobs/{job_id}/hand-over", { params: { path: { job_id: 3 } } }));
    expect(cookie("csrftoken")).toBe("abc123");
    expect(sent.map((request) => request.headers.get("X-CSRFToken"))).toEqual([null, "abc123"]);
    expect(sent[1]?.url).toContain("/api/jobs/3/hand-over");
  });
});
