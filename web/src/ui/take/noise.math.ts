/** What the sheet says of sound that should not be there; no pixels, no DOM. */
import type { NoiseEvent, Note, TakeMeasured } from "~/api/client";
import { signed } from "~/lib/words";
import type { SheetNote } from "./notes.math";
import type { Fact } from "./rhythm.math";

type Summary = TakeMeasured["analysis"]["summary"];

const KINDS: Record<NoiseEvent["kind"], string> = {
  open_ring: "rings",
  pressed: "is pressed and sounds",
  bleed: "rings on",
  after_stop: "sounds after the stop",
  scrape: "Scrape",
  thud: "Thud",
  hum: "Hum of the rig",
  other: "Other sound: a cough, a knock, a voice or the like",
};

/** "String 4 rings", "String 3, fret 5, rings on", "Scrape". */
export function eventWords(event: NoiseEvent): string {
  const what = KINDS[event.kind];
  if (event.string === null) return event.kind === "hum" && event.hz ? `${what}, ${event.hz} Hz` : what;
  const fret = event.fret ? `, fret ${event.fret},` : "";
  return `String ${event.string}${fret} ${what}`;
}

export function ringWords(string: number, db: number): string {
  return `string ${string} rings at ${signed(db, 0)} dB`;
}

/** What of a note's noise is outside, in the trade's words. */
export function noiseFaults(note: Note): string[] {
  const { noise, chord } = note;
  const faults: string[] = [];
  if (chord?.present === false) faults.push("is not heard in the chord");
  else if (chord?.verdict === "outside" && chord.balance_db != null)
    faults.push(
      `${Math.abs(chord.balance_db).toFixed(1)} dB ${chord.balance_db < 0 ? "soft" : "loud"} against its chord`,
    );
  if (noise?.verdict !== "outside") return faults;
  const rings = note.reasons?.some((r) => ["open_ring", "pressed", "bleed"].includes(r)) ?? false;
  if (noise.worst_ring_db !== null && noise.string !== null && (rings || noise.stop_verdict !== "outside"))
    faults.push(ringWords(noise.string, noise.worst_ring_db));
  if (noise.stop_verdict === "outside" && noise.decay_ms != null)
    faults.push(`${noise.decay_ms.toFixed(0)} ms until it is silent`);
  return faults;
}

/** Where a ringing string lies from what is played, and with what it can be touched. */
export function touchWords(string: number, played: readonly number[]): string {
  if (played.length === 0 || played.includes(string)) return "";
  const lowest = Math.max(...played);
  const highest = Math.min(...played);
  if (string > lowest)
    return "Below what is played: the side of the picking hand, or the fingertip, can touch it.";
  if (string < highest) return "Above what is played: lay the underside of the fretting finger on it.";
  return "Between the strings that sound: an idle finger can touch it.";
}

const LEAST_APART_HZ = 25;
const HIGHEST_HZ = 3200;
const MOST_BANDS = 10;

/** Partials of a ringing string that lie clear of what is played: what is heard when only the string is let through. */
export function ringBands(ringHz: number, playedHz: readonly number[]): number[] {
  const bands: number[] = [];
  for (let k = 1; k * ringHz < HIGHEST_HZ && bands.length < MOST_BANDS; k += 1) {
    const hz = k * ringHz;
    const clear = playedHz.every((f) => Math.abs(hz - Math.max(1, Math.round(hz / f)) * f) > LEAST_APART_HZ);
    if (clear) bands.push(hz);
  }
  return bands;
}

/** The notes that sound during an event. */
export function notesDuring<T extends { note: Note }>(notes: readonly T[], event: NoiseEvent): T[] {
  return notes.filter(
    ({ note }) =>
      note.onset_s !== null && note.end_s !== null && note.onset_s < event.to_s && note.end_s > event.from_s,
  );
}

/** What the whole take says of noise. */
export function noiseFacts(summary: Summary): Fact[] {
  const noise = summary.noise;
  if (!noise) return [];
  const facts: Fact[] = [];
  const known = noise.strings.filter((s) => s.floor_db != null).map((s) => s.floor_db as number);
  if (known.length) {
    const middle = [...known].sort((a, b) => a - b)[Math.floor(known.length / 2)] as number;
    facts.push({
      label: "Heard from",
      value: `${signed(middle, 0)} dB`,
      hint: "softer strings go unheard here",
    });
  }
  if (noise.decay_ms != null)
    facts.push({ label: "Silent after a stop", value: `${noise.decay_ms.toFixed(0)} ms`, hint: "median" });
  if (noise.scrapes) facts.push({ label: "Scrapes", value: String(noise.scrapes) });
  if (noise.hum_db != null)
    facts.push({ label: "Hum of the rig", value: `${signed(noise.hum_db, 0)} dB`, hint: "not the player's" });
  if (noise.driven)
    facts.push({
      label: "Drive",
      value: "yes",
      hint: "its own tones are not taken for strings, nor a chord's strings weighed",
    });
  return facts;
}

/** What rings on after a note still rings under it, s. */
const RINGS_AFTER_S = 0.3;

/** The loudest string that rings while a note sounds. */
export function ringUnder(selected: SheetNote | null, events: readonly NoiseEvent[]): NoiseEvent | null {
  if (!selected || selected.note.onset_s === null || selected.note.end_s === null) return null;
  const { onset_s: from, end_s: to } = selected.note;
  const under = events.filter(
    (e) => e.string !== null && e.hz != null && e.from_s < to + RINGS_AFTER_S && e.to_s > from,
  );
  return under.sort((a, b) => b.level_db - a.level_db)[0] ?? null;
}
