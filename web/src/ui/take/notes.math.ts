/** What the sheet says of a note; no pixels, no DOM. */
import type { DrillEvent, Note, TakeMeasured } from "~/api/client";
import { bendWords, centsWords } from "~/lib/words";
import type { TabMark } from "~/ui/tab/TabLine";

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
    note,
    event: events.get(note.id),
  }));
}

/** The one error that is shown for a note, cents. */
export function errorCents(note: Note): number | null {
  return note.bend ? note.bend.error_cents : (note.pitch?.error_cents ?? null);
}

export function uCents(note: Note): number | null {
  return note.bend ? note.bend.u : (note.pitch?.u ?? null);
}

export function toleranceCents(note: Note, tolerances: Tolerances): number {
  return note.bend ? tolerances.bendError : tolerances.plainPitch;
}

/** The limits a bend drill is judged by, cents. */
export interface Tolerances {
  plainPitch: number;
  bendError: number;
  holdSd: number;
}

export function tolerancesOf({ tolerances }: Pick<TakeMeasured, "tolerances">): Tolerances {
  return {
    plainPitch: tolerances.plain_pitch_cents ?? Number.POSITIVE_INFINITY,
    bendError: tolerances.bend_error_cents ?? Number.POSITIVE_INFINITY,
    holdSd: tolerances.hold_sd_cents ?? Number.POSITIVE_INFINITY,
  };
}

/** What the note is, in a few words: "Full bend", "Fretted note". */
export function noteWords({ note, event }: SheetNote): string {
  if (note.bend) {
    const size = bendWords(note.bend.target_cents as number | [number, number]);
    const kind = event?.articulation === "repluck" ? "bend struck again" : "bend";
    const text = `${size} ${kind}`;
    return text.charAt(0).toUpperCase() + text.slice(1);
  }
  if (event?.id.startsWith("twelfth")) return "12th fret against open";
  return note.fret === 0 ? "Open string" : "Fretted note";
}

export function placeWords(note: Note): string {
  return note.string === null ? "" : `string ${note.string}, fret ${note.fret ?? "–"}`;
}

/** The finding in one line. */
export function findingWords(note: Note): string {
  if (note.status === "missed") return "Not heard";
  if (note.status === "wrong_pitch") return "Another pitch was played";
  const error = errorCents(note);
  if (error === null) return "Could not be measured";
  return centsWords(error);
}

export function markOf(note: Note): TabMark {
  if (note.status === "missed") return "missed";
  if (note.clean === "inside" || note.clean === null) return "none";
  if (note.clean === "unclear") return "unclear";
  if (note.status === "wrong_pitch") return "wrong";
  const error = errorCents(note);
  if (error === null) return "unclear";
  return error < 0 ? "under" : "over";
}

export type SortColumn = "place" | "error" | "clean" | "hold";

const CLEAN_ORDER: Record<string, number> = { outside: 0, unclear: 1, inside: 3 };

export function sortNotes(notes: SheetNote[], column: SortColumn, descending: boolean): SheetNote[] {
  const value = ({ note, place }: SheetNote): number => {
    if (column === "error") return Math.abs(errorCents(note) ?? -1);
    if (column === "hold") return note.bend?.hold_sd_cents ?? -1;
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
  ]);
  return [head, ...rows].map((row) => row.join("\t")).join("\n");
}

/** The notes that are furthest outside their tolerance, the worst first; of the same event only its worst repeat. */
export function worstNotes(notes: SheetNote[], tolerances: Tolerances, most: number): SheetNote[] {
  const far = ({ note }: SheetNote) => {
    if (note.status !== "played") return note.status === "missed" ? 2 : 3;
    return Math.abs(errorCents(note) ?? 0) / toleranceCents(note, tolerances);
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
