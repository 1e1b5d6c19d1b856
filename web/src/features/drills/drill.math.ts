/** What a drill asks, in words. Pure. */
import type { DrillContent, DrillRead } from "~/api/client";

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

export interface DrillSearch {
  text: string;
  string: string;
  archived: boolean;
}

/** Drills whose title and family hold every word that was typed. */
export function foundDrills(drills: DrillRead[], search: DrillSearch): DrillRead[] {
  const words = search.text.toLowerCase().split(/\s+/).filter(Boolean);
  return drills.filter((drill) => {
    const text = `${drill.title} ${drill.family.replaceAll("_", " ")}`.toLowerCase();
    return (
      drill.archived === search.archived &&
      words.every((word) => text.includes(word)) &&
      (search.string === "" || new RegExp(`strings? [\\d and]*\\b${search.string}\\b`).test(text))
    );
  });
}
