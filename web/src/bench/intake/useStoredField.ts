// A field of the job that stores itself. What is being typed is never overwritten by what comes from the server, and never overwrites
// unseen what somebody else stored meanwhile: a draft keeps the version that it was begun on.

import { useEffect, useRef, useState } from "react";
import type { Job, JobChange } from "../api/client";
import { answered, current, toSend, typed, type Draft } from "./draft";

export type Field = Exclude<keyof JobChange, "version">;
interface Answer {
  stored: (version: number) => void;
  failed: (clash: boolean) => void;
}
export type Save = (change: JobChange, answer: Answer) => void;
const SAVE_AFTER_MS = 700;
const NUMBERS: Field[] = ["panel_width", "panel_height", "diagonal_in"];

export function useStoredField(job: Job, field: Field, save: Save) {
  const kept = job[field];
  const stored = kept === null || kept === undefined ? "" : String(kept);
  const [draft, show] = useState<Draft | null>(null);
  const now = useRef<Draft | null>(null);
  const timer = useRef(0);
  const underway = useRef(false);
  const setDraft = (next: Draft | null) => {
    now.current = next;
    show(next);
  };
  const send = () => {
    clearTimeout(timer.current);
    const sent = toSend(now.current);
    if (!sent || underway.current) return;
    const { value, version } = sent;
    if (NUMBERS.includes(field) && value.trim() === "" && field !== "diagonal_in") return;
    const change = NUMBERS.includes(field) ? (value.trim() === "" ? null : Number(value.replace(",", "."))) : value;
    underway.current = true;
    save(
      { [field]: change, version },
      {
        stored: (newest) => {
          underway.current = false;
          setDraft(answered(now.current, value, newest));
          send();
        },
        failed: (clash) => {
          underway.current = false;
          if (clash && now.current) setDraft({ ...now.current, clash });
        },
      },
    );
  };
  // who leaves the page by the keyboard does not lose the last words
  const leave = useRef(send);
  useEffect(() => {
    leave.current = send;
  });
  useEffect(
    () => () => {
      leave.current();
    },
    [],
  );
  return {
    value: current(draft, job.version)?.value ?? stored,
    disabled: Boolean(job.closed_at),
    ...(draft?.clash && {
      error: true,
      helperText: `Somebody else stored "${stored}" meanwhile. Enter yours again to replace it, or press Escape to take theirs.`,
    }),
    onChange: (event: { target: { value: string } }) => {
      setDraft(typed(now.current, event.target.value, job.version));
      clearTimeout(timer.current);
      timer.current = window.setTimeout(send, SAVE_AFTER_MS);
    },
    onBlur: send,
    onKeyDown: (event: { key: string }) => {
      if (event.key === "Escape" && now.current?.clash) setDraft(null);
    },
  };
}
