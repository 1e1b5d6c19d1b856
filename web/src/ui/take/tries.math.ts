/** Tries of a passage: what was broken off and begun again; no pixels, no DOM. */
import type { Schemas, TakeMeasured } from "~/api/client";
import type { SheetNote } from "./notes.math";

export type Attempt = NonNullable<TakeMeasured["analysis"]["attempts"]>[number];
export type Pin = Schemas["Pin"];

/** What lies this near a sound is taken with it where a stretch is left out. */
const ABOUT_S = 0.02;
/** A pointer this near a sound means it. */
const SNAP_S = 0.12;

/** How often each repeat was tried, for those that were begun again, in order. */
export function triesOf(attempts: readonly Attempt[]): { repeat: number; tries: number }[] {
  const counts = new Map<number, number>();
  for (const { repeat } of attempts) counts.set(repeat, (counts.get(repeat) ?? 1) + 1);
  return [...counts].sort(([a], [b]) => a - b).map(([repeat, tries]) => ({ repeat, tries }));
}

/** "Repeat 2 took 3 tries; it is clean now." */
export function triesWords(
  attempts: readonly Attempt[],
  notes: readonly SheetNote[],
  several: boolean,
): string[] {
  return triesOf(attempts).map(({ repeat, tries }) => {
    const own = notes.filter((n) => n.note.repeat === repeat);
    const off = own.filter((n) => n.note.clean === "outside" || n.note.status === "missed").length;
    const open = own.some((n) => n.note.clean === "unclear");
    const came = off > 0 ? `${off} of ${own.length} notes not clean` : open ? "nothing off" : "clean";
    return `${several ? `Repeat ${repeat + 1}` : "It"} took ${tries} tries; the last one: ${came}.`;
  });
}

/** "2 of 4 repeats were played.", where not all were; "" where all were. */
export function repeatsWords(notes: readonly SheetNote[]): string {
  const asked = new Set(notes.map((n) => n.note.repeat));
  const played = new Set(notes.flatMap((n) => (n.note.onset_s === null ? [] : [n.note.repeat])));
  return played.size < asked.size ? `${played.size} of ${asked.size} repeats were played.` : "";
}

/** The stretch of what counts now that an attempt would take the place of; null where nothing of it was heard. */
export function insteadOf(attempt: Attempt, notes: readonly SheetNote[]): readonly [number, number] | null {
  const own = new Set((attempt.heard ?? []).map((h) => `${h.id}/${h.repeat}`));
  const heard = notes.flatMap(({ note }) =>
    own.has(`${note.id}/${note.repeat}`) && note.onset_s !== null ? [note.onset_s] : [],
  );
  return heard.length ? [Math.min(...heard) - ABOUT_S, Math.max(...heard) + ABOUT_S] : null;
}

/** The pins with a stretch more that is not of the drill. */
export function withStretch(pins: readonly Pin[], [from, to]: readonly [number, number]): Pin[] {
  return [...pins, { id: null, repeat: 0, at_s: Math.max(0, from), to_s: to }];
}

/** Stretches somebody said are not of the drill. */
export function stretchesOf(pins: readonly Pin[]): (readonly [number, number])[] {
  return pins.flatMap((p) => (p.at_s != null && p.to_s != null ? [[p.at_s, p.to_s] as const] : []));
}

/** Every sound that begins in a take: notes, extras, notes of other tries. */
export function soundsOf(analysis: TakeMeasured["analysis"]): number[] {
  return [
    ...analysis.notes.flatMap((n) => n.onset_s ?? []),
    ...analysis.extras.map((e) => e.onset_s),
    ...(analysis.attempts ?? []).flatMap((a) => (a.heard ?? []).map((h) => h.at_s)),
  ].sort((a, b) => a - b);
}

/** The sound a pointer means, or where it is where none is near. */
export function snapped(sounds: readonly number[], at: number): number {
  let best: number | null = null;
  for (const sound of sounds)
    if (Math.abs(sound - at) <= SNAP_S && (best === null || Math.abs(sound - at) < Math.abs(best - at)))
      best = sound;
  return best ?? at;
}

/** Where the playing begins: the first sound of the drill, of whatever try. */
export function beginsAt(analysis: TakeMeasured["analysis"]): number | null {
  const heard = [
    ...analysis.notes.flatMap((n) => n.onset_s ?? []),
    ...(analysis.attempts ?? []).map((a) => a.from_s),
  ];
  return heard.length ? Math.min(...heard) : null;
}
