// Dark for the bench, light for the front desk: chosen by each person, kept on each machine.

import { createContext, use } from "react";
import type { Mode } from "./theme";

const KEY = "clear-lens-mode";
export const storedMode = (): Mode => (localStorage.getItem(KEY) === "light" ? "light" : "dark");
export function storeMode(mode: Mode): void {
  localStorage.setItem(KEY, mode);
  document.documentElement.dataset.mode = mode;
}

interface Choice {
  mode: Mode;
  choose: (mode: Mode) => void;
}
export const ModeContext = createContext<Choice>({ mode: "dark", choose: () => undefined });
export const useMode = (): Choice => use(ModeContext);
