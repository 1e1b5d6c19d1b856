/** Where things stand on the sheet, and which notes are meant by a place, a key or a range; no DOM. */
import type { NoiseEvent, TakeMeasured } from "~/api/client";
import { type Axis, secondsOfBeat, xOf } from "~/lib/axis.math";
import { layoutTab, type TabLayout } from "~/ui/tab/tab.math";
import type { SheetNote } from "./notes.math";

const EVENT_REACH_S = 0.25;

/** With a grid the numbers stand on their beats, without one where the notes were heard. */
export function tabOnAxis(measured: TakeMeasured, axis: Axis, notes: readonly SheetNote[]): TabLayout {
  const { drill } = measured;
  const repeats = drill.content.repeats ?? 1;
  if (axis.grid) {
    return layoutTab(drill.content, drill.length_beats, repeats, (beat) =>
      xOf(axis, secondsOfBeat(axis, beat) as number),
    );
  }
  const heard = notes
    .filter((n) => n.note.onset_s !== null && n.event)
    .map(
      (n) => [n.note.repeat * drill.length_beats + (n.event?.beat ?? 0), n.note.onset_s as number] as const,
    );
  return layoutTab(drill.content, drill.length_beats, repeats, (beat) => xOf(axis, between(heard, beat)));
}

/** Linear between known (beat, seconds), half a second a beat outside. */
export function between(known: readonly (readonly [number, number])[], beat: number): number {
  let low = 0;
  let high = known.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((known[middle] as readonly [number, number])[0] <= beat) low = middle + 1;
    else high = middle;
  }
  const before = known[low - 1] ?? known[0];
  const after = known[low];
  if (!before) return 0;
  if (!after || before[0] > beat) return before[1] + (beat - before[0]) * 0.5;
  return before[1] + ((beat - before[0]) / (after[0] - before[0])) * (after[1] - before[1]);
}

/** Seconds a note takes: as heard, else where it was due; null where neither is known. */
export function spanOf(
  { note, event }: SheetNote,
  lengthBeats: number,
  axis: Axis,
): readonly [number, number] | null {
  if (note.onset_s !== null && note.end_s !== null) return [note.onset_s, note.end_s];
  const from = secondsOfBeat(axis, note.repeat * lengthBeats + (event?.beat ?? 0));
  return from === null ? null : [from, from + (event?.length ?? 1) * (axis.grid?.secondsPerBeat ?? 1)];
}

/** Seconds several notes take together. */
export function spanOfAll(
  notes: readonly SheetNote[],
  lengthBeats: number,
  axis: Axis,
): readonly [number, number] | null {
  const spans = notes.flatMap((n) => {
    const span = spanOf(n, lengthBeats, axis);
    return span ? [span] : [];
  });
  if (spans.length === 0) return null;
  return [Math.min(...spans.map(([from]) => from)), Math.max(...spans.map(([, to]) => to))];
}

/** Notes that sound between two moments. */
export function notesWithin(notes: readonly SheetNote[], fromS: number, toS: number): SheetNote[] {
  return notes.filter(({ note }) => {
    if (note.onset_s === null || note.end_s === null) return false;
    return note.onset_s <= toS && Math.max(note.end_s, note.vibrato?.region?.[1] ?? 0) >= fromS;
  });
}

export function nearestEvent(events: readonly NoiseEvent[], seconds: number): NoiseEvent | undefined {
  const away = (e: NoiseEvent) => Math.max(e.from_s - seconds, seconds - e.to_s, 0);
  return events
    .filter((e) => e.kind !== "hum" && away(e) < EVENT_REACH_S)
    .sort((a, b) => away(a) - away(b) || b.level_db - a.level_db)[0];
}

export function nearest(notes: readonly SheetNote[], seconds: number): SheetNote | undefined {
  let best: SheetNote | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const candidate of notes) {
    const { onset_s: from, end_s: to } = candidate.note;
    if (from === null || to === null) continue;
    const away = seconds < from ? from - seconds : seconds > to ? seconds - to : 0;
    if (away < least) {
      least = away;
      best = candidate;
    }
  }
  return best;
}

/** Whether a teacher should look at a note: anything but clean, unless it was taken out or called meant. */
export function wantsLook({ note }: SheetNote): boolean {
  return note.clean !== "inside" && note.said !== "excluded";
}

/** The next note in a direction that wants a look, once round. */
export function nextFault(notes: readonly SheetNote[], at: number, way: 1 | -1): SheetNote | undefined {
  for (let step = 1; step <= notes.length; step += 1) {
    const index = (((at + way * step) % notes.length) + notes.length) % notes.length;
    const note = notes[index];
    if (note && wantsLook(note)) return note;
  }
  return undefined;
}

/** The same note of another repeat, where there is one. */
export function inRepeat(notes: readonly SheetNote[], of: SheetNote, way: 1 | -1): SheetNote | undefined {
  return notes.find(
    ({ note }) =>
      note.id === of.note.id && note.string === of.note.string && note.repeat === of.note.repeat + way,
  );
}

/** The cleanest other repeat of a note: its verdict first, then how far it is off. */
export function bestRepeat(
  notes: readonly SheetNote[],
  of: SheetNote,
  errorOf: (note: SheetNote["note"]) => number | null,
): SheetNote | undefined {
  const rank = { inside: 0, unclear: 1, outside: 2 };
  const others = notes.filter(
    ({ note }) =>
      note.id === of.note.id &&
      note.string === of.note.string &&
      note.repeat !== of.note.repeat &&
      note.onset_s !== null &&
      note.status === "played",
  );
  return others.sort(
    (a, b) =>
      rank[a.note.clean ?? "unclear"] - rank[b.note.clean ?? "unclear"] ||
      Math.abs(errorOf(a.note) ?? 999) - Math.abs(errorOf(b.note) ?? 999),
  )[0];
}

/** The notes from one to another, both included, in score order. */
export function rangeOf(notes: readonly SheetNote[], fromKey: string, toKey: string): SheetNote[] {
  const a = notes.findIndex((n) => n.key === fromKey);
  const b = notes.findIndex((n) => n.key === toKey);
  if (a < 0 || b < 0) return [];
  return notes.slice(Math.min(a, b), Math.max(a, b) + 1);
}

/** The beats that fall between two moments, s, and whether a bar begins there. */
export function beatsWithin(
  axis: Axis,
  fromS: number,
  toS: number,
  beatsPerBar: number,
): { at: number; accent: boolean }[] {
  if (!axis.grid) return [];
  const { firstBeatS, secondsPerBeat } = axis.grid;
  const beats = [];
  for (
    let beat = Math.ceil((fromS - firstBeatS) / secondsPerBeat - 1e-6);
    firstBeatS + beat * secondsPerBeat < toS;
    beat += 1
  )
    beats.push({ at: firstBeatS + beat * secondsPerBeat, accent: beat % beatsPerBar === 0 });
  return beats;
}

export type LaneName = "tune" | "time" | "touch" | "quiet";

/** The strips a take has something to show in. */
export function lanesOf(measured: TakeMeasured, notes: readonly SheetNote[]): LaneName[] {
  const lanes: LaneName[] = ["tune"];
  if (notes.some((n) => n.note.timing?.error_ms != null)) lanes.push("time");
  if (notes.some((n) => n.note.level || n.note.length)) lanes.push("touch");
  if (measured.drill.content.measures.includes("noise")) lanes.push("quiet");
  return lanes;
}

/** Sounds nearer than this are one. */
const LEAST_APART_S = 0.03;

/** When the sound heard before or after a note's own begins, s; of one that was not heard, beside where it is asked. */
export function soundBeside(
  notes: readonly SheetNote[],
  extras: readonly { onset_s: number }[],
  of: SheetNote,
  way: 1 | -1,
  lengthBeats: number,
  axis: Axis,
): number | null {
  const sounds = [...notes.flatMap((n) => n.note.onset_s ?? []), ...extras.map((e) => e.onset_s)].sort(
    (a, b) => a - b,
  );
  const here = of.note.onset_s ?? spanOfAll([of], lengthBeats, axis)?.[0];
  if (here === undefined) return null;
  const beside =
    way > 0 ? sounds.find((s) => s > here + LEAST_APART_S) : sounds.findLast((s) => s < here - LEAST_APART_S);
  return beside ?? null;
}
