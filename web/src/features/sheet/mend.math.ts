/** What to mend in a take, put together for a small screen. Pure. */
import { errorCents, markOf, type SheetNote } from "~/ui/take/notes.math";

/** Heard before and after a place. */
export const CONTEXT_S = 0.7;

export interface Place {
  /** Its worst time. */
  note: SheetNote;
  /** The repeats in which it is off, from 1. */
  repeats: number[];
}

const OFF = new Set(["under", "over", "ring", "missed", "wrong", "uneven"]);

/** Each place of the figure that is off, with its repeats: the most often off first, then the furthest off. */
export function places(notes: readonly SheetNote[]): Place[] {
  const found = new Map<string, Place>();
  for (const sheetNote of notes) {
    const { note } = sheetNote;
    const mark = markOf(note);
    if (!OFF.has(mark)) continue;
    const key = `${note.id}/${note.string}/${mark}`;
    const known = found.get(key);
    if (!known) found.set(key, { note: sheetNote, repeats: [note.repeat + 1] });
    else {
      known.repeats.push(note.repeat + 1);
      if (size(sheetNote) > size(known.note)) known.note = sheetNote;
    }
  }
  return [...found.values()].sort(
    (a, b) => b.repeats.length - a.repeats.length || size(b.note) - size(a.note),
  );
}

function size({ note }: SheetNote): number {
  return Math.abs(errorCents(note) ?? note.timing?.error_ms ?? 0);
}
