import type { Verdict } from "~/api/client";

/** Trade words for a deviation; numbers are rounded the way they are shown. */
export function centsWords(cents: number): string {
  const size = Math.abs(cents);
  const shown = size < 9.95 ? size.toFixed(1) : size.toFixed(0);
  if (Number(shown) === 0) return "in tune";
  return `${shown} ${Number(shown) === 1 ? "cent" : "cents"} ${cents < 0 ? "flat" : "sharp"}`;
}

/** A signed number with a true minus sign and a fixed number of digits. */
export function signed(value: number, digits = 1): string {
  const text = Math.abs(value).toFixed(digits);
  if (Number(text) === 0) return `${text}`;
  return `${value < 0 ? "−" : "+"}${text}`;
}

/** How far a value may be off; up: how far upwards, where that is not as far. */
export function plusMinus(
  u: number | null | undefined,
  digits = 1,
  up: number | null | undefined = null,
): string {
  if (u === null || u === undefined) return "";
  const down = u.toFixed(digits);
  const alike = up === null || up === undefined || Math.abs(u - up) < 1.5 * 10 ** -digits;
  return alike ? `± ${down}` : `(+${up.toFixed(digits)} −${down})`;
}

export function verdictWords(verdict: Verdict): string {
  if (verdict === "inside") return "clean";
  if (verdict === "outside") return "not clean";
  return "cannot tell";
}

/** Bend sizes as teachers call them. */
export function bendWords(target: number | [number, number]): string {
  if (Array.isArray(target)) return `${target[0]}–${target[1]} cents`;
  const names: Record<number, string> = { 100: "half", 200: "full", 300: "three frets" };
  return names[target] ?? `${target} cents`;
}

/** Families whose name is not what a guitarist says. */
const FAMILIES: Record<string, string> = {
  prebend: "Pre-bend",
  slur_vs_pick: "Slur against pick",
  vibrato_fretted: "Vibrato on a fretted note",
  vibrato_bent: "Vibrato on a bend",
  fastest_run: "Fastest even run",
  fretted_then_bend: "Fretted, then bend",
  low_string_muting: "Low strings quiet",
  long_note_noise: "Noise on long notes",
};

export function familyWords(family: string): string {
  const known = FAMILIES[family];
  if (known) return known;
  const text = family.replaceAll("_", " ");
  return text.charAt(0).toUpperCase() + text.slice(1);
}

const STAGES: Record<string, string> = {
  decode: "reading the file",
  levels: "levels and floor",
  onsets: "finding attacks",
  contour: "following the pitch",
  align: "matching the drill",
  measure: "measuring",
  judge: "judging",
};

export function stageWords(stage: string): string {
  return STAGES[stage] ?? "starting";
}

export function dayAndTime(iso: string, zone: string): string {
  const at = new Date(iso);
  return new Intl.DateTimeFormat("en-GB", {
    weekday: "short",
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    ...yearOf(at, zone),
    timeZone: zone,
  }).format(at);
}

/** The year where it is another one: a day of last November would be taken for one of this. */
function yearOf(at: Date, zone: string): { year?: "numeric" } {
  const year = new Intl.DateTimeFormat("en-GB", { year: "numeric", timeZone: zone });
  return year.format(at) === year.format(new Date()) ? {} : { year: "numeric" };
}

export const GUITAR_KINDS = [
  { value: "solid", label: "Solid body" },
  { value: "semi_hollow", label: "Semi-hollow" },
  { value: "steel_acoustic", label: "Steel-string acoustic" },
  { value: "nylon", label: "Nylon-string" },
];

/** What an ear check is about. */
export function earWords(kind: string): string {
  const words: Record<string, string> = {
    pitch: "Two notes",
    bend: "Bend and target",
    timing: "On the click",
    level: "Loud and soft",
  };
  return words[kind] ?? kind;
}

/** A day without its hour. */
export function day(iso: string, zone: string): string {
  const at = new Date(iso);
  return new Intl.DateTimeFormat("en-GB", {
    day: "numeric",
    month: "long",
    ...yearOf(at, zone),
    timeZone: zone,
  }).format(at);
}

export function megabytes(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  return bytes < 950_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

/** A number's text with a true minus sign. */
export function minus(text: string): string {
  return text.replace("-", "−");
}

/** What a vibrato is played on. */
export function onWords(on: "fretted" | "bent"): string {
  return on === "bent" ? "a bend" : "a fretted note";
}

export function percentWords(share: number): string {
  return `${(100 * share).toFixed(0)} %`;
}

const MEASURES: Record<string, string> = {
  pitch: "pitch",
  bend: "bend",
  vibrato: "vibrato",
  timing: "time",
  level: "volume",
  length: "length",
  noise: "quiet",
};

/** A measure by its name on the sheet. */
export function measureWords(measure: string): string {
  return MEASURES[measure] ?? measure;
}
