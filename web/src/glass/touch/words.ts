// What the glass says at each step, in the trade's words.

import { isGuided, type Course, type Step } from "./course";

const HANDS_OFF: Record<string, string> = { true: "Charger in.", false: "Charger out." };

function task(step: Step): string {
  if (step.kind === "hands_off")
    return `Hands off. ${HANDS_OFF[String(step.charging)] ?? ""} Lay the device down; press Space here or on the bench, or tap once, to begin.`;
  if (step.kind === "multi_touch")
    return `Lay ${step.fingers ?? step.path.length} fingers on the rings, all at once, and hold.`;
  if (step.kind === "hold") return "Lay one finger on the ring and hold it still.";
  if (step.kind === "free") return "Draw as you like. Space to begin.";
  return "Lay a finger on the ring and follow the dot, at its pace. Where nothing answers, go on all the same.";
}

export function wordsFor(course: Course, waiting: number, stuck: boolean): string {
  const { step, phase } = course;
  const unsent = waiting > 20 ? ` ${waiting} parts wait for the network; nothing is lost.` : "";
  if (phase === "end" || !step)
    return `${course.left ? `All drawn. ${course.left} cells have not answered.` : "All drawn, every cell has answered."} The bench says what that means.${unsent}`;
  const place = `${course.index + 1} of ${course.steps.length}, ${step.id}. `;
  if (phase === "asking")
    return `${place}Nothing was felt. Did your finger follow the dot? Space: yes, it was drawn. Left arrow: no, once more.`;
  if (phase === "ready")
    return `${place}${task(step)}${stuck && step.kind !== "hands_off" ? " If the ring does not answer: Space here, or Go on the bench." : ""}${unsent}`;
  if (step.kind === "hands_off")
    return course.unasked ? `${course.unasked} ${course.unasked === 1 ? "touch" : "touches"} that nobody made.` : "";
  return course.strayed && isGuided(step) ? "Back to the dot." : "";
}
