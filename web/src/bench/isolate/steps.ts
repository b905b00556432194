// What the next card shows: the plan's first step, or a check that somebody picked, with a key for each answer.

import type { Check, Job, Vocabulary } from "../api/client";

export interface Answer {
  id: string;
  title: string;
  key: string;
}
export interface Step {
  check: string;
  title: string;
  minutes: number;
  how: readonly string[];
  needs: string;
  cautions: readonly string[];
  answers: readonly Answer[];
  repair: boolean;
  /** Whether it can be put aside; what makes the work safe cannot. */
  aside: boolean;
}

/** Letters that nothing else on the screen listens to: the pane has b, l, n and p. */
const KEYS = "qwertyuiosdfghjk";
export const SKIP_KEY = "x";
const REPAIR = "repair:";

const withKeys = (choices: readonly { id: string; title: string }[]): Answer[] =>
  choices.map((one, n) => ({ ...one, key: KEYS[n] ?? "" }));

/** A check as a step; what holds for the whole job, such as a set on mains, is said first. */
function ofCheck(check: Check, always: readonly string[]): Step {
  return {
    check: check.id,
    title: check.title,
    minutes: check.minutes,
    how: check.how,
    needs: check.needs,
    cautions: [...always, ...check.cautions],
    answers: check.measured ? [] : withKeys(check.outcomes),
    repair: false,
    aside: true,
  };
}

/** The step that is due, or the picked check in its place. */
export function stepOf(job: Job, vocabulary: Vocabulary, picked: string | null): Step | null {
  const chosen = vocabulary.checks.find((one) => one.id === picked);
  const always = job.diagnosis.cautions ?? [];
  if (chosen) return ofCheck(chosen, always);
  const due = job.diagnosis.plan?.[0];
  if (!due) return null;
  if (due.kind === "repair") {
    return {
      check: REPAIR + due.id,
      title: due.title,
      minutes: due.minutes,
      how: [],
      needs: "",
      cautions: due.cautions ?? [],
      answers: withKeys(
        due.prepares
          ? vocabulary.tried.filter((one) => one.id === "same").map((one) => ({ ...one, title: "Done" }))
          : vocabulary.tried.map((one) => ({
              ...one,
              title: one.id === "same" ? "Tried, nothing changed" : "Tried, mended",
            })),
      ),
      repair: true,
      aside: !due.prepares,
    };
  }
  const check = vocabulary.checks.find((one) => one.id === due.id);
  return check ? ofCheck(check, always) : null;
}

/** Checks of this device type that nobody answered yet. */
export function openChecks(job: Job, vocabulary: Vocabulary): Check[] {
  const done = new Set(job.evidence.filter((one) => !one.withdrawn).map((one) => one.check));
  return vocabulary.checks.filter((one) => !done.has(one.id) && one.devices.includes(job.device_type));
}

/** An answer in words; of a repair what came of it. */
export function answerWords(vocabulary: Vocabulary, check: string, outcome: string): string {
  if (check.startsWith(REPAIR)) {
    const repair = vocabulary.repairs.find((one) => one.id === check.slice(REPAIR.length));
    if (outcome === vocabulary.not_possible) return `${repair?.title ?? check}: not now`;
    if (repair?.prepares) return `${repair.title}: done`;
    return `${repair?.title ?? check}: tried, ${vocabulary.tried.find((one) => one.id === outcome)?.title ?? outcome}`;
  }
  const known = vocabulary.checks.find((one) => one.id === check);
  const said =
    outcome === vocabulary.not_possible
      ? "not possible"
      : (known?.outcomes.find((one) => one.id === outcome)?.title ?? outcome);
  const title = known?.title ?? check;
  return `${title}${title.endsWith("?") ? "" : ":"} ${said}`;
}
