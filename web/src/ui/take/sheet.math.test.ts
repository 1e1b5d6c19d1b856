import { describe, expect, it } from "vitest";
import { makeAxis } from "~/lib/axis.math";
import type { SheetNote } from "./notes.math";
import {
  beatsWithin,
  bestRepeat,
  between,
  inRepeat,
  nextFault,
  notesWithin,
  rangeOf,
  spanOf,
  spanOfAll,
} from "./sheet.math";

type Part = Partial<SheetNote["note"]>;

function note(place: number, repeat: number, part: Part = {}): SheetNote {
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

const NOTES = [0, 1, 2].flatMap((repeat) => [0, 1, 2, 3].map((place) => note(place, repeat)));
const AXIS = makeAxis(20, 50, { bpm: 60, first_beat_s: 0 });

describe("places on the sheet", () => {
  it("finds the notes of a stretch, with those that reach into it", () => {
    expect(notesWithin(NOTES, 1.5, 3.1).map((n) => n.key)).toEqual(["n1@0", "n2@0", "n3@0"]);
  });

  it("takes a missed note's span from the beat it was due on", () => {
    const missed = note(2, 1, { onset_s: null, end_s: null, status: "missed" });
    expect(spanOf(missed, 4, AXIS)).toEqual([6, 7]);
    expect(spanOf(missed, 4, makeAxis(20, 50, { bpm: null, first_beat_s: null }))).toBeNull();
  });

  it("spans several notes, whichever comes first", () => {
    expect(spanOfAll([NOTES[5] as SheetNote, NOTES[1] as SheetNote], 4, AXIS)).toEqual([1, 5.9]);
    expect(spanOfAll([], 4, AXIS)).toBeNull();
  });

  it("reads a moment between known beats", () => {
    const known = [
      [0, 1],
      [2, 5],
    ] as const;
    expect(between(known, 1)).toBe(3);
    expect(between(known, 4)).toBe(6);
    expect(between(known, -2)).toBe(0);
    expect(between([], 3)).toBe(0);
  });

  it("has a click on each beat, a bar's first louder", () => {
    expect(beatsWithin(AXIS, 2.5, 5.2, 4)).toEqual([
      { at: 3, accent: false },
      { at: 4, accent: true },
      { at: 5, accent: false },
    ]);
    expect(beatsWithin(makeAxis(20, 50, { bpm: null, first_beat_s: null }), 0, 9, 4)).toEqual([]);
  });
});

describe("going from note to note", () => {
  const some = NOTES.map((n) =>
    ["n1@0", "n2@2"].includes(n.key)
      ? ({ ...n, note: { ...n.note, clean: "outside" } } as SheetNote)
      : n.key === "n3@0"
        ? ({ ...n, note: { ...n.note, clean: null, said: "excluded" } } as SheetNote)
        : n,
  );

  it("goes to what is not clean, once round, past what does not count", () => {
    expect(nextFault(some, 1, 1)?.key).toBe("n2@2");
    expect(nextFault(some, 10, 1)?.key).toBe("n1@0");
    expect(nextFault(some, 10, -1)?.key).toBe("n1@0");
    expect(nextFault(NOTES, 0, 1)).toBeUndefined();
    expect(nextFault([], -1, 1)).toBeUndefined();
  });

  it("knows the same note of the next repeat", () => {
    expect(inRepeat(NOTES, NOTES[1] as SheetNote, 1)?.key).toBe("n1@1");
    expect(inRepeat(NOTES, NOTES[1] as SheetNote, -1)).toBeUndefined();
  });

  it("takes a range from either end", () => {
    expect(rangeOf(NOTES, "n3@0", "n1@0").map((n) => n.key)).toEqual(["n1@0", "n2@0", "n3@0"]);
    expect(rangeOf(NOTES, "n3@0", "elsewhere")).toEqual([]);
  });

  it("calls the cleanest other repeat the best, then the nearest to its pitch", () => {
    const error = new Map([
      ["n1@1", -9],
      ["n1@2", 4],
    ]);
    const errorOf = (n: SheetNote["note"]) => error.get(`${n.id}@${n.repeat}`) ?? null;
    expect(bestRepeat(NOTES, NOTES[1] as SheetNote, errorOf)?.key).toBe("n1@2");
    const worse = NOTES.map((n) =>
      n.key === "n1@2" ? ({ ...n, note: { ...n.note, clean: "outside" } } as SheetNote) : n,
    );
    expect(bestRepeat(worse, NOTES[1] as SheetNote, errorOf)?.key).toBe("n1@1");
    expect(bestRepeat([NOTES[0] as SheetNote], NOTES[0] as SheetNote, errorOf)).toBeUndefined();
  });
});
