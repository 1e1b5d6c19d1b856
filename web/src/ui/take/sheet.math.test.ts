import { describe, expect, it } from "vitest";
import type { NoiseEvent, TakeMeasured } from "~/api/client";
import { makeAxis } from "~/lib/axis.math";
import { heardNote, heardNotes, ONE_A_SECOND } from "~/testing/notes";
import type { SheetNote } from "./notes.math";
import {
  beatsWithin,
  bestRepeat,
  between,
  inRepeat,
  lanesOf,
  nearest,
  nearestEvent,
  nextFault,
  notesWithin,
  rangeOf,
  soundBeside,
  spanOf,
  spanOfAll,
  tabOnAxis,
  wantsLook,
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

describe("edges", () => {
  it("of a stretch take in what touches them, and a vibrato that is still heard", () => {
    const keys = (from: number, to: number) => notesWithin(NOTES, from, to).map((n) => n.key);
    expect(keys(1.9, 2)).toEqual(["n1@0", "n2@0"]);
    expect(keys(1.91, 1.99)).toEqual([]);
    const swung = note(1, 0, { vibrato: { region: [1.2, 2.5] } } as never);
    expect(notesWithin([swung], 2.4, 3)).toEqual([swung]);
    expect(notesWithin([swung], 2.51, 3)).toEqual([]);
    expect(notesWithin([note(1, 0, { vibrato: { region: null } } as never)], 1.95, 3)).toEqual([]);
    expect(notesWithin([note(1, 0, { onset_s: null }), note(1, 0, { end_s: null })], 0, 9)).toEqual([]);
  });

  it("of a noise reach a quarter of a second", () => {
    const noise = { kind: "thud", from_s: 2, to_s: 3, level_db: -20 } as NoiseEvent;
    expect([1.76, 1.74, 3.24, 3.26].map((s) => nearestEvent([noise], s) === noise)).toEqual([
      true,
      false,
      true,
      false,
    ]);
    expect(nearestEvent([noise], 1.75)).toBeUndefined();
  });

  it("of the beats: the first on the edge is in, the last on it is not", () => {
    const half = makeAxis(20, 50, { bpm: 120, first_beat_s: 0.25 });
    expect(beatsWithin(half, 0.75, 1.75, 3)).toEqual([
      { at: 0.75, accent: false },
      { at: 1.25, accent: false },
    ]);
    expect(beatsWithin(half, -0.3, 0.3, 3)).toEqual([
      { at: -0.25, accent: false },
      { at: 0.25, accent: true },
    ]);
  });

  it("of a note that was not heard are those of its beats, one beat and one second where none is asked", () => {
    const part = { onset_s: null, end_s: null };
    const long = { ...note(1, 2, part), event: { id: "n1", beat: 1.5, length: 2 } } as unknown as SheetNote;
    expect(spanOf(long, 4, AXIS)).toEqual([9.5, 11.5]);
    expect(spanOf(note(1, 0, { end_s: null }), 4, AXIS)).toEqual([1, 2]);
  });
});

describe("what is shown", () => {
  it("wants a look where it is open, off or not judged, unless it was taken out", () => {
    const wants = (part: object) => wantsLook(note(0, 0, part));
    expect([
      wants({}),
      wants({ clean: "outside" }),
      wants({ clean: "unclear" }),
      wants({ clean: null }),
    ]).toEqual([false, true, true, true]);
    expect(wants({ clean: "outside", said: "excluded" })).toBe(false);
    expect(wants({ clean: "outside", said: "meant" })).toBe(true);
  });

  it("has a strip for what was measured, and for quiet where it was asked", () => {
    const measured = (measures: string[]) =>
      ({ drill: { content: { measures } } }) as unknown as TakeMeasured;
    const lanes = (part: object, measures: string[] = []) =>
      lanesOf(measured(measures), [note(0, 0), note(1, 0, part)]);
    expect(lanes({})).toEqual(["tune"]);
    expect(lanes({ timing: { error_ms: 0 } })).toEqual(["tune", "time"]);
    expect(lanes({ timing: { error_ms: null } })).toEqual(["tune"]);
    expect(lanes({ level: {} })).toEqual(["tune", "touch"]);
    expect(lanes({ length: {} })).toEqual(["tune", "touch"]);
    expect(lanes({}, ["noise"])).toEqual(["tune", "quiet"]);
  });

  it("stands on its beats with a grid, and where it was heard without one", () => {
    const events = [0, 1, 2, 3].map((beat) => ({
      id: `n${beat}`,
      beat,
      length: 1,
      articulation: "pick",
      notes: [{ string: 3, fret: 5 }],
    }));
    const measured = {
      drill: {
        content: { events, repeats: 2, measures: [], tuning: [64, 59, 55, 50, 45, 40] },
        length_beats: 4,
      },
    } as unknown as TakeMeasured;
    const xs = (axis: ReturnType<typeof makeAxis>, notes: SheetNote[]) =>
      tabOnAxis(measured, axis, notes).numbers.map((n) => n.x);
    expect(xs(AXIS, NOTES).slice(0, 4)).toEqual([12, 62, 112, 162]);
    const free = makeAxis(20, 50, { bpm: null, first_beat_s: null });
    const late = NOTES.map((n) => ({
      ...n,
      note: { ...n.note, onset_s: (n.note.onset_s as number) * 2 + 1 },
    })) as SheetNote[];
    expect(xs(free, late).slice(0, 6)).toEqual([62, 162, 262, 362, 462, 562]);
    const unheard = late.map((n) => (n.key === "n1@0" ? { ...n, note: { ...n.note, onset_s: null } } : n));
    expect(xs(free, unheard as SheetNote[]).slice(0, 3)).toEqual([62, 162, 262]);
  });
});

describe("the best of several repeats", () => {
  const error = (n: SheetNote["note"]) => (n as unknown as { off: number | null }).off;
  const best = (parts: Record<string, object>) =>
    bestRepeat(heardNotes(parts), NOTES[1] as SheetNote, error)?.key;
  it("is clean before open before off, and what has no verdict is open", () => {
    expect(best({ "n1@1": { clean: "outside", off: 1 }, "n1@2": { clean: "unclear", off: 9 } })).toBe("n1@2");
    expect(best({ "n1@1": { clean: null, off: 9 }, "n1@2": { clean: "outside", off: 1 } })).toBe("n1@1");
    expect(best({ "n1@1": { clean: null, off: 1 }, "n1@2": { off: 9 } })).toBe("n1@2");
    expect(best({ "n1@1": { clean: null, off: 9 }, "n1@2": { clean: "unclear", off: -1 } })).toBe("n1@2");
  });

  it("is one with a pitch before one without, and never one not heard, not played, or of another string", () => {
    expect(best({ "n1@1": { off: null }, "n1@2": { off: -50 } })).toBe("n1@2");
    expect(best({ "n1@1": { onset_s: null }, "n1@2": { clean: "outside" } })).toBe("n1@2");
    expect(best({ "n1@1": { status: "wrong_pitch" }, "n1@2": { string: 4 } })).toBeUndefined();
  });
});
