// One guard for every key of the bench: none while somebody types, none with Ctrl, Alt or Meta, none under a dialog, and the space bar
// belongs to the button that has the focus.

import { useEffect, useRef } from "react";
import { typing } from "./typing";

type Keys = Readonly<Record<string, ((event: KeyboardEvent) => void) | undefined>>;

export function mayAct(event: KeyboardEvent): boolean {
  if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return false;
  if (document.querySelector("[role=dialog]")) return false;
  const focused = (event.target as HTMLElement).closest("button, a, [role=button], [role=slider]") !== null;
  return !(event.key === " " && focused);
}

/** Listen to keys, by their names, as long as the component is there; an undefined one is not listened to now. */
export function useKeys(keys: Keys): void {
  const current = useRef(keys);
  useEffect(() => {
    current.current = keys;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const act = current.current[event.key];
      if (!act || !mayAct(event)) return;
      event.preventDefault();
      act(event);
    };
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
    };
  }, []);
}
