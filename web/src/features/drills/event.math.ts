/** What a form says of one event, and how a text becomes a length or a range; no DOM. */
import type { DrillContent, DrillEvent } from "~/api/client";
import { bendWords } from "~/lib/words";
import { beatsPerBar } from "~/ui/tab/systems.math";
import type { Articulation } from "./edit.math";
import { barAndBeat } from "./editing.math";

export const ARTICULATIONS: { value: Articulation; label: string }[] = [
  { value: "pick", label: "picked" },
  { value: "palm_mute", label: "picked, palm-muted" },
  { value: "hammer", label: "hammer-on" },
  { value: "pull", label: "pull-off" },
  { value: "tap", label: "tapped" },
  { value: "slide", label: "slid" },
  { value: "strum", label: "strummed" },
  { value: "repluck", label: "bend struck again" },
];
export const KINDS = [
  { value: "none", label: "none" },
  { value: "bend", label: "bend" },
  { value: "prebend", label: "pre-bend, let down" },
  { value: "release", label: "release" },
  { value: "unison", label: "unison bend" },
  { value: "curl", label: "curl (corridor)" },
];
export const RETURNS = [
  { value: "none", label: "none" },
  { value: "bottom", label: "from the note up" },
  { value: "top", label: "dips below, back up" },
  { value: "centre", label: "around the note" },
];
export const STROKES = [
  { value: "none", label: "not said" },
  { value: "down", label: "down" },
  { value: "up", label: "up" },
  { value: "sweep_down", label: "goes on down" },
  { value: "sweep_up", label: "goes on up" },
];
export const FINGERS = [
  { value: "none", label: "not said" },
  { value: "1", label: "1, first" },
  { value: "2", label: "2, middle" },
  { value: "3", label: "3, ring" },
  { value: "4", label: "4, little" },
  { value: "thumb", label: "thumb" },
  { value: "tap", label: "tapping finger" },
  { value: "slide", label: "slide" },
];
export const CURL: [number, number] = [20, 80];

/** Bar and beat of an event. */
export function placeOfId(drill: DrillContent, id: string): string {
  const beat = drill.events.find((event) => event.id === id)?.beat ?? 0;
  return barAndBeat(beat, beatsPerBar(drill));
}

/** A bend of another kind, as far as possible of the same size. */
export function bendOf(kind: string, before: DrillEvent["bend"]): DrillEvent["bend"] {
  if (kind === "none") return null;
  const size = before && typeof before.target_cents === "number" ? before.target_cents : 200;
  return {
    kind: kind as NonNullable<DrillEvent["bend"]>["kind"],
    target_cents: kind === "curl" ? CURL : size,
    reference: null,
    helpers: before?.helpers ?? [],
  };
}

/** The usual sizes of a bend, and the one that is asked now. */
export function sizes(now: number): { value: string; label: string }[] {
  const known = [50, 100, 150, 200, 250, 300, 400];
  return [...new Set([...known, now])]
    .sort((a, b) => a - b)
    .map((cents) => ({ value: String(cents), label: bendWords(cents) }));
}

/** A length as one writes it: 1, 0.5, 1/3. */
export function lengthFrom(text: string): number | null {
  const [, top, bottom] = /^\s*(\d+(?:[.,]\d+)?)(?:\s*\/\s*(\d+))?\s*$/.exec(text) ?? [];
  if (top === undefined) return null;
  const beats = Number(top.replace(",", ".")) / (bottom === undefined ? 1 : Number(bottom));
  return Number.isFinite(beats) && beats >= 1 / 32 && beats <= 64 ? beats : null;
}

/** The other way round: thirds, fifths and their like as fractions. */
export function lengthText(beats: number): string {
  for (const bottom of [1, 2, 4, 8, 16]) {
    if (Math.abs(beats * bottom - Math.round(beats * bottom)) < 1e-4)
      return String(Math.round(beats * bottom) / bottom);
  }
  const bottom = [3, 5, 6, 7, 9, 12].find((b) => Math.abs(beats * b - Math.round(beats * b)) < 1e-3);
  return bottom ? `${Math.round(beats * bottom)}/${bottom}` : String(beats);
}

/** Two numbers from a text as "4–6", or null for nothing. */
export function rangeFrom(text: string): [number, number] | null {
  const found = text.match(/\d+(?:\.\d+)?/g)?.map(Number) ?? [];
  const [low, high = low] = found;
  return low === undefined || high === undefined || low > high ? null : [low, high];
}

/** Another way to sound a note: what only the old way has goes with it. */
export function struckAs(articulation: Articulation): Partial<DrillEvent> {
  const unstruck = ["hammer", "pull", "slide", "tap"].includes(articulation);
  return { articulation, slide: null, ...(unstruck ? { stroke: null } : {}) };
}
