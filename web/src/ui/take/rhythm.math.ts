/** What the sheet says of a note's time, volume and length; no pixels, no DOM. */
import type { Note, TakeMeasured } from "~/api/client";
import { signed } from "~/lib/words";

export interface RhythmFault {
  text: string;
  /** Early, soft and short hang under the line; late, loud and long stand over it. */
  side: "under" | "over";
}

export function timeWords(ms: number): string {
  const size = Math.abs(ms).toFixed(0);
  return size === "0" ? "on the beat" : `${size} ms ${ms < 0 ? "early" : "late"}`;
}

export function levelWords(db: number): string {
  const size = Math.abs(db).toFixed(1);
  return size === "0.0" ? "as loud as the others" : `${size} dB ${db < 0 ? "soft" : "loud"}`;
}

/** What is outside its tolerance in time, volume or length, in the trade's words. */
export function rhythmFaults(note: Note): RhythmFault[] {
  const faults: RhythmFault[] = [];
  const { timing, level, length } = note;
  if (timing?.verdict === "outside" && timing.error_ms !== null)
    faults.push({ text: timeWords(timing.error_ms), side: timing.error_ms < 0 ? "under" : "over" });
  if (level?.verdict === "outside") {
    if (level.dies) faults.push({ text: "dies too soon", side: "under" });
    else if (level.way === "accented") faults.push({ text: "accent missing", side: "under" });
    else if (level.deviation_db !== null)
      faults.push({ text: levelWords(level.deviation_db), side: level.deviation_db < 0 ? "under" : "over" });
  }
  if (length?.verdict === "outside") {
    if (note.reasons?.includes("rings_on") && length.overlap_ms !== null)
      faults.push({ text: `rings on ${length.overlap_ms.toFixed(0)} ms`, side: "over" });
    else if (length.length_ratio !== null && !level?.dies) {
      const percent = 100 * (length.length_ratio - 1);
      faults.push({
        text: `${Math.abs(percent).toFixed(0)} % ${percent < 0 ? "short" : "long"}`,
        side: percent < 0 ? "under" : "over",
      });
    }
  }
  return faults;
}

/** A note with only what its drill asks for: what it does not ask is not shown as if it counted. */
export function asAsked(note: Note, measures: readonly string[]): Note {
  return {
    ...note,
    timing: measures.includes("timing") ? note.timing : null,
    level: measures.includes("level") ? note.level : null,
    length: measures.includes("length") ? note.length : null,
    noise: measures.includes("noise") ? note.noise : null,
  };
}

export interface Fact {
  label: string;
  value: string;
  hint?: string;
}

type Summary = TakeMeasured["analysis"]["summary"];

/** What the whole take says of time, volume and length, in the order a teacher asks. */
export function rhythmFacts(summary: Summary): Fact[] {
  const { timing, level, length } = summary;
  const facts: Fact[] = [];
  const add = (
    label: string,
    value: number | null | undefined,
    words: (v: number) => string,
    hint?: string,
  ) => {
    if (value !== null && value !== undefined)
      facts.push(hint === undefined ? { label, value: words(value) } : { label, value: words(value), hint });
  };
  const withU = (text: string, u: number | null | undefined, digits: number) =>
    u === null || u === undefined ? text : `${text} ± ${u.toFixed(digits)}`;
  if (timing) {
    add("Early or late", timing.bias_ms, (v) => `${withU(signed(v), timing.u_bias_ms, 1)} ms`, "median");
    add("Unsteady", timing.jitter_ms, (v) => `${v.toFixed(1)} ms`, "spread of the errors");
    add("Drift", timing.drift_ms_per_beat, (v) => `${signed(v, 2)} ms a beat`);
    add(
      "At a change of string",
      timing.string_change_ms,
      (v) => `${withU(signed(v), timing.u_string_change_ms, 1)} ms`,
      "against notes on the same string",
    );
    add("Tempo played", timing.tempo_bpm, (v) => `${v.toFixed(1)} bpm`);
    add(
      "Strings struck together",
      timing.together_ms,
      (v) => `within ${v.toFixed(0)} ms`,
      "median, first to last",
    );
    add("Long eighth", timing.swing, (v) => `${(100 * v).toFixed(0)} % of the beat`);
  }
  add("Fastest even run", summary.fastest_even_run_nps, (v) => `${v.toFixed(1)} notes a second`);
  if (level) {
    add(
      "Spread of volume",
      level.spread_db,
      (v) => `${v.toFixed(1)} dB`,
      "picked notes, each string by itself",
    );
    add(
      "Slurs softer by",
      level.slur_deficit_db,
      (v) => `${withU(signed(v), level.u_slur_deficit_db, 1)} dB`,
      "than picked notes on their string",
    );
    add("Accents louder by", level.accent_lift_db, (v) => `${signed(v)} dB`);
    add("Taps louder by", level.tap_excess_db, (v) => `${signed(v)} dB`, "than the other notes");
    add(
      "Volume at a change of string",
      level.string_change_db,
      (v) => `${withU(signed(v), level.u_string_change_db, 1)} dB`,
    );
  }
  if (length) {
    add("Length", length.ratio, (v) => `${(100 * v).toFixed(0)} % of the slot`, "median");
    add("Spread of length", length.spread, (v) => `${(100 * v).toFixed(0)} %`);
    add(
      "Under the next note for",
      length.overlap_ms,
      (v) => `${v.toFixed(0)} ms`,
      "median, to another string",
    );
  }
  return facts;
}

const EXTRAS: Record<string, [string, string]> = {
  double_hit: ["double hit", "double hits"],
  stutter: ["stutter", "stutters"],
  restart: ["note of a passage begun again", "notes of a passage begun again"],
  extra: ["extra note", "extra notes"],
};

/** "31 of 32 notes heard; 1 double hit"; nothing where all were heard and nothing else. */
export function heardWords(summary: Summary, extras: readonly { kind: string }[]): string | null {
  if (!summary.missed && !extras.length) return null;
  const parts = [`${summary.asked - summary.missed} of ${summary.asked} notes heard`];
  for (const [kind, [one, many]] of Object.entries(EXTRAS)) {
    const count = extras.filter((e) => e.kind === kind).length;
    if (count) parts.push(`${count} ${count === 1 ? one : many}`);
  }
  return parts.join("; ");
}

export function extraWords(kind: string): string {
  return EXTRAS[kind]?.[0] ?? kind;
}
