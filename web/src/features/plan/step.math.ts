import type { Step } from "~/api/week";

/** A step of a ladder as teachers say it; the server says it the same way. */
export function stepWords(step: Step): string {
  if (!step.bpm) return "free time";
  if (!step.per_click) return `${step.bpm} bpm`;
  return `${step.per_click} note${step.per_click === 1 ? "" : "s"} a click at ${step.bpm} bpm`;
}
