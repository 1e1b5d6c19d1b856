import type { Step } from "~/api/week";

/** Where a step is played: the recorder with its tempo and its notes to a click. */
export function recordAddress(drillId: number, studentId: number, step: Step): string {
  const query = new URLSearchParams({ student: String(studentId) });
  if (step.bpm) query.set("bpm", String(step.bpm));
  if (step.per_click) query.set("per_click", String(step.per_click));
  return `/record/${drillId}?${query}`;
}
