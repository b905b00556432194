// @vitest-environment jsdom
import { afterEach, describe, expect, it } from "vitest";
import { mayAct } from "./useKeys";

function press(key: string, html = "<div id=x></div>", options: KeyboardEventInit = {}): boolean {
  document.body.innerHTML = html;
  let answer = false;
  const hear = (event: KeyboardEvent) => {
    answer = mayAct(event);
  };
  window.addEventListener("keydown", hear);
  document.getElementById("x")?.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, ...options }));
  window.removeEventListener("keydown", hear);
  return answer;
}

describe("a key of the bench", () => {
  afterEach(() => {
    document.body.innerHTML = "";
  });

  it("acts where nobody types", () => {
    expect(press("n")).toBe(true);
    expect(press(" ")).toBe(true);
    expect(press("n", "<button id=x></button>")).toBe(true);
  });

  it("belongs to fields, dialogs, the browser and the focused button", () => {
    expect(press("n", "<input id=x>")).toBe(false);
    expect(press("n", "<textarea id=x></textarea>")).toBe(false);
    expect(press("n", "<div id=x role=combobox></div>")).toBe(false);
    expect(press("n", "<div id=x></div><div role=dialog></div>")).toBe(false);
    expect(press("n", "<div id=x></div>", { ctrlKey: true })).toBe(false);
    expect(press(" ", "<button id=x></button>")).toBe(false);
  });
});
