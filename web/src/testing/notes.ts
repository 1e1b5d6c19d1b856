/** Notes of a sheet as heard: three repeats of four beats at 60 bpm, a note a beat. */
import { makeAxis } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";

export type NotePart = Partial<SheetNote["note"]>;

export function heardNote(place: number, repeat: number, part: NotePart = {}): SheetNote {
  const onset = repeat * 4 + place;
  return {
    key: `n${place}@${repeat}`,
    place,
    event: { id: `n${place}`, beat: place, length: 1, articulation: "pick" },
    note: {
      id: `n${place}`,
      repeat,
      string: 3,
      fret: 5,
      status: "played",
      onset_s: onset,
      end_s: onset + 0.9,
      clean: "inside",
      said: null,
      ...part,
    },
  } as unknown as SheetNote;
}

/** Three repeats; the parts are what is different of some notes, by key. */
export function heardNotes(parts: Record<string, NotePart> = {}): SheetNote[] {
  return [0, 1, 2].flatMap((repeat) =>
    [0, 1, 2, 3].map((place) => heardNote(place, repeat, parts[`n${place}@${repeat}`])),
  );
}

export const ONE_A_SECOND = makeAxis(20, 50, { bpm: 60, first_beat_s: 0 });
