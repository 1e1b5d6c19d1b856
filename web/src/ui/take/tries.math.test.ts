import { describe, expect, it } from "vitest";
import { measured } from "~/testing/sheet";
import { sheetNotes } from "./notes.math";
import {
  type Attempt,
  beginsAt,
  insteadOf,
  repeatsWords,
  snapped,
  soundsOf,
  stretchesOf,
  triesOf,
  triesWords,
  withStretch,
} from "./tries.math";

const attempt = (repeat: number, from: number, heard: [string, number][] = []): Attempt => ({
  repeat,
  from_id: "check",
  to_id: "bend",
  place: "the first bar",
  notes: heard.length,
  from_s: from,
  to_s: from + 1,
  heard: heard.map(([id, at_s]) => ({ id, repeat, at_s })),
});

describe("tries", () => {
  it("are counted by repeat, the one that counts among them", () => {
    expect(triesOf([attempt(1, 5), attempt(1, 8), attempt(0, 2)])).toEqual([
      { repeat: 0, tries: 2 },
      { repeat: 1, tries: 3 },
    ]);
  });

  it("say what came of the last one", () => {
    const notes = sheetNotes(measured());
    const off = notes.filter((n) => n.note.repeat === 1 && n.note.clean === "outside").length;
    const all = notes.filter((n) => n.note.repeat === 1).length;
    expect(triesWords([attempt(1, 5)], notes, true)).toEqual([
      `Repeat 2 took 2 tries; the last one: ${off} of ${all} notes not clean.`,
    ]);
    const clean = notes.map((n) => ({
      ...n,
      note: { ...n.note, clean: "inside" as const, status: "played" as const },
    }));
    expect(triesWords([attempt(1, 5)], clean, false)).toEqual(["It took 2 tries; the last one: clean."]);
  });

  it("are beside how many of the repeats were played at all", () => {
    const notes = sheetNotes(measured());
    expect(repeatsWords(notes)).toBe("");
    const asked = new Set(notes.map((n) => n.note.repeat)).size;
    const first = notes.map((n) => (n.note.repeat === 0 ? n : { ...n, note: { ...n.note, onset_s: null } }));
    expect(repeatsWords(first)).toBe(`1 of ${asked} repeats were played.`);
  });

  it("take the place of the same notes of what counts now", () => {
    const take = measured();
    const notes = sheetNotes(take);
    const own = notes.filter((n) => n.note.repeat === 0 && n.note.onset_s !== null).slice(0, 2);
    const onsets = own.map((n) => n.note.onset_s as number);
    const found = insteadOf(
      attempt(
        0,
        0.2,
        own.map((n, i) => [n.note.id, 0.2 + i]),
      ),
      notes,
    );
    expect(found?.[0]).toBeCloseTo(Math.min(...onsets) - 0.02);
    expect(found?.[1]).toBeCloseTo(Math.max(...onsets) + 0.02);
    expect(insteadOf(attempt(0, 0.2, [["nothing", 1]]), notes)).toBeNull();
  });
});

describe("a stretch that is left out", () => {
  it("is a pin without a note, beside the others", () => {
    const pins = withStretch([{ id: "bend", repeat: 0, at_s: 1 }], [-0.5, 3]);
    expect(pins).toHaveLength(2);
    expect(stretchesOf(pins)).toEqual([[0, 3]]);
  });
});

describe("a pointer", () => {
  it("means the sound that is near, else the place itself", () => {
    expect(snapped([1, 2, 2.1], 2.04)).toBe(2);
    expect(snapped([1, 2, 2.1], 2.08)).toBe(2.1);
    expect(snapped([1, 2], 1.5)).toBe(1.5);
  });

  it("may mean any sound: notes, extras and notes of other tries", () => {
    const { analysis } = measured();
    const sounds = soundsOf({ ...analysis, attempts: [attempt(0, 0.25, [["bend", 0.25]])] });
    expect(sounds[0]).toBe(0.25);
    expect(beginsAt({ ...analysis, attempts: [attempt(0, 0.25)] })).toBe(0.25);
    expect(beginsAt({ ...analysis, notes: [], attempts: [] })).toBeNull();
  });
});
