/** What a drill asks, in words. Pure. */
import type { DrillContent } from "~/api/client";

export function askedWords(content: DrillContent): string {
  const tempo = content.tempo ? `at ${content.tempo.bpm} bpm` : "in free time";
  const times = content.repeats === 1 ? "Once" : `${content.repeats} times`;
  return `${times} ${tempo}, judged for ${content.measures.join(", ")}; tolerances “${content.profile}”.`;
}

/** A sentence about measures this version does not have, or nothing. */
export function notJudgedWords(measures: readonly string[]): string {
  if (measures.length === 0) return "";
  return `Not judged in this version yet: ${measures.join(", ")}; such notes come back as “cannot tell”.`;
}
