/** What a drill asks, in words. Pure. */
import type { DrillContent, DrillRead } from "~/api/client";
import { holdsWords } from "~/lib/search";
import { groupOf, liesIn } from "./library.math";

export function askedWords(content: DrillContent): string {
  const tempo = content.tempo ? `at ${content.tempo.bpm} bpm` : "in free time";
  const times = content.repeats === 1 ? "Once" : `${content.repeats} times`;
  return `${times} ${tempo}, judged for ${content.measures.join(", ")}; tolerances “${content.profile}”.`;
}

export interface DrillSearch {
  text: string;
  family: string;
  string: string;
  level: string;
  tag: string;
  group: string;
  need: string;
  neck: string;
  /** At most so many minutes; empty for any. */
  minutes: string;
  archived: boolean;
}

export const ANY_DRILL: DrillSearch = {
  text: "",
  family: "",
  string: "",
  level: "",
  tag: "",
  group: "",
  need: "",
  neck: "",
  minutes: "",
  archived: false,
};
export const PLAIN_NEED = "nothing";

/** Whether anything is looked for at all. */
export function searches(search: DrillSearch): boolean {
  return Object.values(search).some(Boolean);
}
export const LEVELS = ["first steps", "moving on", "advanced"];

/** Drills whose title, family and tags hold every word that was typed, and that fit everything chosen. */
export function foundDrills(drills: DrillRead[], search: DrillSearch): DrillRead[] {
  return drills.filter((drill) => {
    const text = `${drill.title} ${drill.family.replaceAll("_", " ")} ${drill.tags.join(" ")}`;
    return (
      drill.archived === search.archived &&
      holdsWords(text, search.text) &&
      (search.family === "" || drill.family === search.family) &&
      (search.string === "" || drill.strings.includes(Number(search.string))) &&
      (search.level === "" || drill.level === Number(search.level)) &&
      (search.tag === "" || drill.tags.includes(search.tag)) &&
      (search.group === "" || groupOf(drill) === search.group) &&
      (search.need === "" ||
        (search.need === PLAIN_NEED ? drill.needs.length === 0 : drill.needs.includes(search.need))) &&
      (search.neck === "" || liesIn(drill, search.neck)) &&
      (search.minutes === "" || drill.minutes <= Number(search.minutes))
    );
  });
}

/** Every tag in use, in the order of the alphabet. */
export function tagsOf(drills: DrillRead[]): string[] {
  return [...new Set(drills.flatMap((drill) => drill.tags))].sort();
}

/** A level in words. */
export function levelWords(level: number | null): string {
  return level === null ? "" : (LEVELS[level - 1] ?? "");
}

/** What a drill's school says, where it says something else than the house does. */
export function schoolWords(school: DrillContent["school"]): string {
  const speed = {
    tempo_steps: "tempo up in small steps",
    notes_per_click: "more notes a click at the same tempo",
    overlearn: "stay until it is effortless",
  }[school.speed];
  const slurs = school.slur_force === "light" ? "; slurs light and even" : "";
  const quiet = {
    fretting_hand: "; strings kept quiet by the fretting hand first",
    picking_hand: "; strings kept quiet by the picking hand first",
    both: "",
  }[school.damping];
  return `Speed: ${speed}${slurs}${quiet}.`;
}

/** Files other programs write, read by a worker; our own are JSON. */
export function isScore(name: string): boolean {
  return /\.(musicxml|mxl|xml|midi?)$/i.test(name);
}
