import { describe, expect, it } from "vitest";
import type { NoiseEvent } from "~/api/client";
import { makeAxis } from "~/lib/axis.math";
import { heardNote, heardNotes, ONE_A_SECOND } from "~/testing/notes";
import type { SheetNote } from "./notes.math";
import {
  beatsWithin,
  bestRepeat,
  between,
  inRepeat,
  nearest,
  nearestEvent,
  nextFault,
  notesWithin,
  rangeOf,
  soundBeside,
  spanOf,
  spanOfAll,
} from "./sheet.math";

const note = heardNote;
const NOTES = heardNotes();
const AXIS = ONE_A_SECOND;

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

describe("what is nearest to a moment", () => {
  it("is the note that sounds, else the one whose edge is nearer", () => {
    expect(nearest(NOTES, 1.5)?.key).toBe("n1@0");
    expect(nearest(NOTES, 1.93)?.key).toBe("n1@0");
    expect(nearest(NOTES, 1.97)?.key).toBe("n2@0");
    expect(nearest(NOTES, -3)?.key).toBe("n0@0");
    expect(nearest(NOTES, 99)?.key).toBe("n3@2");
  });

  it("is the first of two as near, and never one that was not heard", () => {
    const twice = [note(0, 0), { ...note(0, 0), key: "same" }];
    expect(nearest(twice, 5)?.key).toBe("n0@0");
    expect(nearest([note(0, 0, { end_s: null }), note(3, 0)], 0)?.key).toBe("n3@0");
    expect(nearest([note(0, 0, { onset_s: null, end_s: null })], 0)).toBeUndefined();
  });

  it("is the louder of two noises at one place, and none that is far, or hum", () => {
    const noise = (kind: string, from_s: number, to_s: number, level_db: number) =>
      ({ kind, from_s, to_s, level_db }) as NoiseEvent;
    const soft = noise("ring", 1, 2, -30);
    const loud = noise("ring", 1, 2, -20);
    const later = noise("handling", 2.05, 2.06, -10);
    expect(nearestEvent([soft, loud, later], 1.5)).toBe(loud);
    expect(nearestEvent([soft, loud, later], 2.04)).toBe(later);
    expect(nearestEvent([loud], 2.01)).toBe(loud);
    expect(nearestEvent([loud], 9)).toBeUndefined();
    expect(nearestEvent([noise("hum", 0, 20, -10)], 1)).toBeUndefined();
  });

  it("is a span that reaches over repeats of the beats asked", () => {
    const missed = note(2, 1, { onset_s: null, end_s: null });
    const half = makeAxis(20, 50, { bpm: 120, first_beat_s: 3 });
    expect(spanOf(missed, 4, half)).toEqual([6, 6.5]);
    expect(spanOf({ ...missed, event: undefined } as unknown as SheetNote, 4, half)).toEqual([5, 5.5]);
    expect(spanOf(note(2, 1, { end_s: null }), 4, half)).toEqual([6, 6.5]);
  });

  it("is before, between and after what is known of the beats", () => {
    const known = [
      [0, 1],
      [2, 5],
      [4, 6],
    ] as const;
    expect([-1, 0, 1, 2, 3, 4, 6].map((beat) => between(known, beat))).toEqual([0.5, 1, 3, 5, 5.5, 6, 7]);
    expect(between([], 3)).toBe(0);
    expect(between([[2, 7]], 1)).toBe(6.5);
  });

  it("lies 30 ms before or after a sound at least", () => {
    const here = NOTES[4] as SheetNote;
    const extras = [{ onset_s: 4.02 }, { onset_s: 3.5 }, { onset_s: 4.031 }];
    expect(soundBeside(NOTES, extras, here, 1, 4, AXIS)).toBe(4.031);
    expect(soundBeside(NOTES, extras, here, -1, 4, AXIS)).toBe(3.5);
    expect(soundBeside(NOTES, [], NOTES[0] as SheetNote, -1, 4, AXIS)).toBeNull();
    const missed = note(1, 1, { onset_s: null, end_s: null });
    expect(soundBeside(NOTES, [], missed, 1, 4, AXIS)).toBe(6);
  });
});

describe("going round", () => {
  it("passes over what was taken out, backwards too, and comes back to itself last", () => {
    const notes = heardNotes({
      "n1@0": { clean: "outside" },
      "n3@0": { clean: "outside", said: "excluded" },
      "n2@2": { clean: "unclear" },
    });
    expect(nextFault(notes, 1, 1)?.key).toBe("n2@2");
    expect(nextFault(notes, 1, -1)?.key).toBe("n2@2");
    expect(nextFault(notes, 10, 1)?.key).toBe("n1@0");
    expect(nextFault(heardNotes({ "n1@0": { clean: "outside" } }), 1, 1)?.key).toBe("n1@0");
    expect(nextFault(heardNotes(), 1, 1)).toBeUndefined();
    expect(nextFault([], 0, 1)).toBeUndefined();
  });
});
