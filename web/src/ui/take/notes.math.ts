/** What the sheet says of a note; no pixels, no DOM. */
import type { DrillEvent, Note, TakeMeasured } from "~/api/client";
import { bendWords, centsWords } from "~/lib/words";
import type { TabMark } from "~/ui/tab/TabNumber";
import { noiseFaults } from "./noise.math";
import { asAsked, rhythmFaults } from "./rhythm.math";

export type NoteKey = string;

export interface SheetNote {
  key: NoteKey;
  /** Place in score order, from 1. */
  place: number;
  note: Note;
  event: DrillEvent | undefined;
}

export function keyOf(id: string, repeat: number): NoteKey {
  return `${id}@${repeat}`;
}

export function sheetNotes(measured: TakeMeasured): SheetNote[] {
  const events = new Map(measured.drill.content.events.map((event) => [event.id, event]));
  return measured.analysis.notes.map((note, index) => ({
    key: `${keyOf(note.id, note.repeat)}/${note.string ?? index}`,
    place: index + 1,
    note: asAsked(note, measured.drill.content.measures),
    event: events.get(note.id),
  }));
}

/** The one error that is shown for a note, cents. */
export function errorCents(note: Note): number | null {
  if (note.bend) return note.bend.error_cents;
  if (note.vibrato) return note.vibrato.return_error_cents;
  return note.pitch?.error_cents ?? null;
}

export function uCents(note: Note): number | null {
  if (note.bend) return note.bend.u;
  if (note.vibrato) return note.vibrato.u_return;
  return note.pitch?.u ?? null;
}

export function toleranceCents(note: Note, tolerances: Tolerances): number {
  if (note.bend?.kind === "unison" && note.bend.reference_hz)
    return 1200 * Math.log2(1 + tolerances.beatHz / note.bend.reference_hz);
  if (note.bend && Array.isArray(note.bend.target_cents))
    return (note.bend.target_cents[1] - note.bend.target_cents[0]) / 2;
  if (note.bend) return tolerances.bendError;
  return note.vibrato ? tolerances.vibratoReturn : tolerances.plainPitch;
}

/** The limits a bend drill is judged by, cents. */
export interface Tolerances {
  plainPitch: number;
  bendError: number;
  holdSd: number;
  beatHz: number;
  vibratoReturn: number;
  rateCv: number;
  extentCv: number;
  levelDb: number;
  slurDeficitDb: number;
  accentLiftDb: number;
  lengthFraction: number;
  overlapMs: number;
  ringDb: number;
  stopMs: number;
}

export function tolerancesOf({ tolerances }: Pick<TakeMeasured, "tolerances">): Tolerances {
  return {
    plainPitch: tolerances.plain_pitch_cents ?? Number.POSITIVE_INFINITY,
    bendError: tolerances.bend_error_cents ?? Number.POSITIVE_INFINITY,
    holdSd: tolerances.hold_sd_cents ?? Number.POSITIVE_INFINITY,
    beatHz: tolerances.beat_hz ?? Number.POSITIVE_INFINITY,
    vibratoReturn: tolerances.vibrato_return_cents ?? Number.POSITIVE_INFINITY,
    rateCv: tolerances.vibrato_rate_cv ?? Number.POSITIVE_INFINITY,
    extentCv: tolerances.vibrato_extent_cv ?? Number.POSITIVE_INFINITY,
    levelDb: tolerances.level_db ?? Number.POSITIVE_INFINITY,
    slurDeficitDb: tolerances.slur_deficit_db ?? Number.POSITIVE_INFINITY,
    accentLiftDb: tolerances.accent_lift_db ?? 0,
    lengthFraction: tolerances.length_fraction ?? Number.POSITIVE_INFINITY,
    overlapMs: tolerances.overlap_ms ?? Number.POSITIVE_INFINITY,
    ringDb: tolerances.ring_db ?? 0,
    stopMs: tolerances.stop_ms ?? Number.POSITIVE_INFINITY,
  };
}

/** What the note is, in a few words: "Full bend", "Fretted note". */
export function noteWords({ note, event }: SheetNote): string {
  if (note.bend) {
    const size = bendWords(note.bend.target_cents as number | [number, number]);
    const kind = event?.articulation === "repluck" ? "bend struck again" : BEND_NAMES[note.bend.kind];
    const text = `${size} ${kind}${note.vibrato ? " with vibrato" : ""}`;
    return text.charAt(0).toUpperCase() + text.slice(1);
  }
  if (event?.id.startsWith("twelfth")) return "12th fret against open";
  if (event?.vibrato) return "Fretted note with vibrato";
  if (note.fret === null) return "Muted string";
  return note.fret === 0 ? "Open string" : "Fretted note";
}

const BEND_NAMES: Record<string, string> = {
  bend: "bend",
  prebend: "pre-bend",
  release: "release",
  unison: "bend to unison",
  curl: "curl",
};

export function placeWords(note: Note): string {
  return note.string === null ? "" : `string ${note.string}, fret ${note.fret ?? "–"}`;
}

/** The finding in one line. */
export function findingWords(note: Note, tolerances: Tolerances): string {
  if (note.status === "missed") return "Not heard";
  if (note.status === "wrong_pitch") return "Another pitch was played";
  const rhythm = [...rhythmFaults(note).map((fault) => fault.text), ...noiseFaults(note)];
  if (rhythm.length && !pitchOutside(note)) return sentence(rhythm);
  return sentence([pitchWords(note, tolerances), ...rhythm]);
}

/** Whether what is wrong is wrong with its pitch: a bend, a vibrato, or a plain note out of tune. */
function pitchOutside(note: Note): boolean {
  return [note.bend?.verdict, note.vibrato?.verdict, note.pitch?.verdict].includes("outside");
}

function pitchWords(note: Note, tolerances: Tolerances): string {
  const error = errorCents(note);
  const { bend, vibrato } = note;
  if (bend?.kind === "unison") return unisonWords(note);
  if (error === null) return note.fret === null ? "Struck and silent" : "Could not be measured";
  if (bend && bend.landing_error_cents != null)
    return `Starts ${centsWords(error)}, lands ${centsWords(bend.landing_error_cents)}`;
  if (vibrato) {
    const faults = vibratoFaults(note, tolerances);
    const own = bend ? [centsWords(error)] : [];
    return sentence([...own, ...(faults.length ? faults : bend ? [] : ["Even, and comes back"])]);
  }
  return centsWords(error);
}

function unisonWords(note: Note): string {
  const bend = note.bend;
  if (!bend || bend.difference_cents === null) return "Could not be measured";
  if (bend.state === "there") return "In unison";
  const size = `${Math.abs(bend.difference_cents).toFixed(1)} cents`;
  if (bend.state === "under") return `Not there yet: ${size} under`;
  if (bend.state === "past") return `Went past it: ${size} over`;
  return `Beats ${bend.beat_hz?.toFixed(1) ?? "–"} times a second`;
}

/** What is wrong with a vibrato, in the trade's words; empty where nothing is outside. */
export function vibratoFaults(note: Note, tolerances: Tolerances): string[] {
  const v = note.vibrato;
  if (v?.verdict !== "outside") return [];
  const faults: string[] = [];
  const back = v.return_error_cents ?? 0;
  if (Math.abs(back) - (v.u_return ?? 0) > tolerances.vibratoReturn)
    faults.push(`comes back ${centsWords(back)}`);
  if ((v.extent_cv ?? 0) - (v.u_extent_cv ?? 0) > tolerances.extentCv) faults.push("uneven in width");
  if ((v.rate_cv ?? 0) - (v.u_rate_cv ?? 0) > tolerances.rateCv) faults.push("uneven in time");
  if (faults.length === 0) faults.push("not at the rate or width asked for");
  return faults;
}

function sentence(parts: string[]): string {
  const text = parts.join(", ");
  return text.charAt(0).toUpperCase() + text.slice(1);
}

export function markOf(note: Note): TabMark {
  if (note.said === "excluded") return "out";
  if (note.said === "meant") return "meant";
  if (note.status === "missed") return "missed";
  if (note.clean === "inside" || note.clean === null) return "none";
  if (note.clean === "unclear") return "unclear";
  if (note.status === "wrong_pitch") return "wrong";
  const rhythm = rhythmFaults(note)[0];
  if (rhythm && !pitchOutside(note)) return rhythm.side;
  if (noiseFaults(note).length && !pitchOutside(note)) return "ring";
  // A bend or a plain note is off its pitch; a vibrato that is uneven is off nothing.
  const error = note.bend && note.bend.verdict !== "inside" ? note.bend.error_cents : errorCents(note);
  if (note.vibrato && (!note.bend || note.bend.verdict === "inside")) return "uneven";
  if (error === null) return "unclear";
  return error < 0 ? "under" : "over";
}

export interface Deviation {
  /** Seconds. */
  from: number;
  to: number;
  /** Cents from the line it is held against; about: where that line lies, cents from the note's target. */
  error: number;
  about: number;
}

/** What of a note lies off its line, and where: the hold of a bend, its landing, the return of a vibrato. */
export function deviations(note: Note, tolerances: Tolerances): Deviation[] {
  const { bend, vibrato, pitch } = note;
  if (note.onset_s === null || note.end_s === null || note.clean !== "outside") return [];
  const found: Deviation[] = [];
  if (bend && bend.verdict === "outside" && bend.error_cents !== null) {
    const [from, to] = bend.plateau ?? [note.onset_s, note.end_s];
    const landing = bend.landing_error_cents ?? null;
    if (landing === null || Math.abs(bend.error_cents) + (bend.u ?? 0) > tolerances.bendError)
      found.push({ from, to, error: bend.error_cents, about: 0 });
    if (
      landing !== null &&
      bend.landing &&
      Math.abs(landing) - (bend.u_landing ?? 0) > tolerances.bendError
    ) {
      const size = [bend.target_cents].flat().reduce((sum, cents, _, all) => sum + cents / all.length, 0);
      found.push({ from: bend.landing[0], to: bend.landing[1], error: landing, about: -size });
    }
  }
  const back = vibrato?.return_error_cents ?? null;
  if (vibrato?.region && back !== null && Math.abs(back) - (vibrato.u_return ?? 0) > tolerances.vibratoReturn)
    found.push({ from: vibrato.region[0], to: vibrato.region[1], error: back, about: 0 });
  const others = rhythmFaults(note).length + noiseFaults(note).length;
  const inTune = pitch?.verdict !== "outside" && others > 0;
  if (!bend && !vibrato && pitch?.error_cents != null && note.status === "played" && !inTune)
    found.push({ from: note.onset_s, to: note.end_s, error: pitch.error_cents, about: 0 });
  return found;
}

export type SortColumn = "place" | "error" | "clean" | "hold" | "time" | "level" | "ring";

const CLEAN_ORDER: Record<string, number> = { outside: 0, unclear: 1, inside: 3 };

/** How large, whichever way; what was not measured is less than nothing. */
const size = (value: number | null | undefined) => (value == null ? -1 : Math.abs(value));

export function sortNotes(notes: SheetNote[], column: SortColumn, descending: boolean): SheetNote[] {
  const value = ({ note, place }: SheetNote): number => {
    if (column === "error") return size(errorCents(note));
    if (column === "hold") return note.bend?.hold_sd_cents ?? -1;
    if (column === "time") return size(note.timing?.error_ms);
    if (column === "ring") return note.noise?.worst_ring_db ?? -99;
    if (column === "level") return size(note.level?.deviation_db);
    if (column === "clean") return note.status === "missed" ? 2 : (CLEAN_ORDER[note.clean ?? ""] ?? 1);
    return place;
  };
  const sign = descending ? -1 : 1;
  return [...notes].sort((a, b) => sign * (value(a) - value(b)) || a.place - b.place);
}

/** Tab-separated table for a spreadsheet. */
export function notesAsText(notes: SheetNote[]): string {
  const head = [
    "note",
    "repeat",
    "id",
    "string",
    "fret",
    "status",
    "clean",
    "error_cents",
    "u_cents",
    "hold_sd_cents",
    "landing_error_cents",
    "beat_hz",
    "vibrato_rate_hz",
    "vibrato_rate_cv",
    "vibrato_extent_cents",
    "vibrato_extent_cv",
    "vibrato_return_error_cents",
    "time_error_ms",
    "level_db",
    "level_deviation_db",
    "length_ratio",
    "overlap_ms",
    "ring_db",
    "ring_string",
    "decay_ms",
  ];
  const rows = notes.map(({ note, place }) => [
    place,
    note.repeat + 1,
    note.id,
    note.string,
    note.fret,
    note.status,
    note.clean ?? "",
    errorCents(note) ?? "",
    uCents(note) ?? "",
    note.bend?.hold_sd_cents ?? "",
    note.bend?.landing_error_cents ?? "",
    note.bend?.beat_hz ?? "",
    note.vibrato?.rate_hz ?? "",
    note.vibrato?.rate_cv ?? "",
    note.vibrato?.extent_cents ?? "",
    note.vibrato?.extent_cv ?? "",
    note.vibrato?.return_error_cents ?? "",
    note.timing?.error_ms ?? "",
    note.level?.level_db ?? "",
    note.level?.deviation_db ?? "",
    note.length?.length_ratio ?? "",
    note.length?.overlap_ms ?? "",
    note.noise?.worst_ring_db ?? "",
    note.noise?.string ?? "",
    note.noise?.decay_ms ?? "",
  ]);
  return [head, ...rows].map((row) => row.join("\t")).join("\n");
}

/** The notes that are furthest outside their tolerance, the worst first; of the same event only its worst repeat. */
export function worstNotes(notes: SheetNote[], tolerances: Tolerances, most: number): SheetNote[] {
  const far = ({ note }: SheetNote) => {
    if (note.status !== "played") return note.status === "missed" ? 2 : 3;
    const pitch = Math.abs(errorCents(note) ?? 0) / toleranceCents(note, tolerances);
    const time = Math.abs(note.timing?.error_ms ?? 0) / (note.timing?.limit_ms ?? Number.POSITIVE_INFINITY);
    const level = Math.abs(note.level?.deviation_db ?? 0) / tolerances.levelDb;
    const ring = note.noise?.verdict === "outside" ? 1 + ((note.noise.worst_ring_db ?? -40) + 40) / 40 : 0;
    return Math.max(ring, pitch, time, note.level?.way === "accented" ? 0 : level);
  };
  const outside = notes.filter(({ note }) => note.clean === "outside" || note.status === "missed");
  const worst = [...outside].sort((a, b) => far(b) - far(a) || a.place - b.place);
  const seen = new Set<string>();
  return worst
    .filter(({ note }) => {
      const key = `${note.id}/${note.string}`;
      if (seen.has(key)) return false;
      seen.add(key);
      return true;
    })
    .slice(0, most);
}
