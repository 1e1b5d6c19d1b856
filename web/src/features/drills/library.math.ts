/** Finding a drill among hundreds: by what it trains, needs and takes, by place on the neck, by likeness. Pure. */
import type { DrillRead, GeneratorRead } from "~/api/client";
import { familyWords } from "~/lib/words";

/** What a drill trains, in the order a teacher thinks of it; the first tag of a drill that is one of these. */
export const GROUPS = ["bends", "vibrato", "slurs", "picking", "muting", "slides", "licks"] as const;
const OTHER = "other";
const LOW_FRET = 7;
const HIGH_FRET = 12;

export const NECK = [
  { value: "low", label: "frets 1 to 7" },
  { value: "middle", label: "frets 5 to 12" },
  { value: "high", label: "from fret 12 up" },
];

export function groupOf(drill: DrillRead): string {
  const known = (tag: string) => tag === "guitar" || GROUPS.some((group) => group === tag);
  return drill.tags.find(known) ?? OTHER;
}

/** A group as its heading. */
export function groupWords(group: string): string {
  return group === OTHER ? "Your own" : familyWords(group);
}

/** Drills by what they train and then by family, groups in their order. */
export function byGroup(drills: DrillRead[]): [string, [string, DrillRead[]][]][] {
  const groups = new Map<string, Map<string, DrillRead[]>>();
  for (const drill of drills) {
    const families = groups.get(groupOf(drill)) ?? new Map<string, DrillRead[]>();
    families.set(drill.family, [...(families.get(drill.family) ?? []), drill]);
    groups.set(groupOf(drill), families);
  }
  const rank = (group: string) => {
    const at = GROUPS.indexOf(group as (typeof GROUPS)[number]);
    return at < 0 ? GROUPS.length : at;
  };
  return [...groups].sort(([a], [b]) => rank(a) - rank(b)).map(([group, families]) => [group, [...families]]);
}

/** Whether a drill lies in a stretch of the neck. */
export function liesIn(drill: DrillRead, where: string): boolean {
  const [low = 0, high = 0] = drill.frets;
  if (where === "low") return high <= LOW_FRET;
  if (where === "middle") return low >= 5 && high <= HIGH_FRET;
  return where !== "high" || high >= HIGH_FRET;
}

/** The same figure elsewhere: drills of the same form, else of the same family, those on other strings first. */
export function like(drills: DrillRead[], drill: DrillRead): DrillRead[] {
  const same = drills.filter(
    (other) =>
      other.id !== drill.id &&
      !other.archived &&
      (drill.form ? other.form === drill.form : other.family === drill.family),
  );
  const elsewhere = (other: DrillRead) => (other.strings.join() === drill.strings.join() ? 1 : 0);
  return [...same].sort((a, b) => elsewhere(a) - elsewhere(b));
}

/** The names of the forms that hold the figure for a fault. */
export function formsFor(generators: GeneratorRead[], cause: string): string[] {
  return generators.filter((g) => g.helps.includes(cause)).map((g) => g.name);
}

/** Minutes as one says them. */
export function minutesWords(minutes: number): string {
  return minutes < 1 ? `${Math.max(5, Math.round((minutes * 60) / 5) * 5)} s` : `${minutes.toFixed(1)} min`;
}
