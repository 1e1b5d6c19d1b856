/** Which drills are offered where one is to be recorded. Pure. */
import type { DrillRead, Take } from "~/api/client";
import { holdsWords } from "~/lib/search";
import { familyWords } from "~/lib/words";

export interface Offered {
  drill: DrillRead;
  /** Its place in the recorder. */
  to: string;
  says: string;
}

/** The drills of the newest takes, each once, with who played it. */
export function recent(takes: Take[], drills: Map<number, DrillRead>, most: number): Offered[] {
  const offered = new Map<string, Offered>();
  for (const take of [...takes].sort((a, b) => b.played_at.localeCompare(a.played_at))) {
    const drill = drills.get(take.drill_id);
    const key = `${take.drill_id}/${take.student_id}`;
    if (!drill || drill.archived || drill.family === "set_up" || offered.has(key)) continue;
    offered.set(key, { drill, to: `/record/${drill.id}?student=${take.student_id}`, says: take.student });
  }
  return [...offered.values()].slice(0, most);
}

/** Drills that hold every word that was typed, in title, family or tags. */
export function found(drills: DrillRead[], text: string, most: number): DrillRead[] {
  if (text.trim() === "") return [];
  return drills
    .filter(
      (drill) =>
        !drill.archived &&
        holdsWords([drill.title, familyWords(drill.family), ...drill.tags].join(" "), text),
    )
    .slice(0, most);
}
