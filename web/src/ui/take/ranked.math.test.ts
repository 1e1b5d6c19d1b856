/** How notes are sorted, copied and ranked, at and beside their limits. */
import { describe, expect, it } from "vitest";
import { bendOf, LIMITS, late, noteOf, plain, rings, row, vibratoOf } from "~/testing/found";
import { heardNotes, type NotePart } from "~/testing/notes";
import { notesAsText, sortNotes, worstNotes } from "./notes.math";

describe("a table of notes", () => {
  it("sorts what was not measured below what is in tune, whichever way", () => {
    const rows = [row(noteOf(), 1), row(noteOf(plain(0)), 2), row(noteOf(plain(-9)), 3)];
    expect(sortNotes(rows, "error", true).map((r) => r.place)).toEqual([3, 2, 1]);
    expect(sortNotes(rows, "error", false).map((r) => r.place)).toEqual([1, 2, 3]);
    const hold = [row(noteOf(), 1), row(noteOf({ bend: bendOf({ hold_sd_cents: 0.5 }) }), 2)];
    expect(sortNotes(hold, "hold", true).map((r) => r.place)).toEqual([2, 1]);
    const noise = (db: number | null) => noteOf({ noise: { worst_ring_db: db } });
    const rung = [row(noteOf(), 1), row(noise(-98), 2), row(noise(null), 3)];
    expect(sortNotes(rung, "ring", true).map((r) => r.place)).toEqual([2, 1, 3]);
  });

  it("copies each value under its name, nothing where there is none", () => {
    const measured = noteOf({
      clean: "outside",
      repeat: 2,
      bend: bendOf({ hold_sd_cents: 3.5, landing_error_cents: -4, beat_hz: 1.5 }),
      vibrato: vibratoOf({ rate_hz: 5, extent_cents: 60 }),
      timing: { error_ms: -12 },
      level: { level_db: -21, deviation_db: 1.25 },
      length: { length_ratio: 0.9, overlap_ms: 15 },
      noise: { worst_ring_db: -33, string: 6, decay_ms: 180 },
    });
    const lines = notesAsText([row(measured, 7), row(noteOf({ clean: null, fret: 0 }), 8)]).split("\n");
    const [head, first, second] = lines.map((line) => line.split("\t")) as [string[], string[], string[]];
    expect(Object.fromEntries(head.map((name, i) => [name, first[i]]))).toEqual({
      note: "7",
      repeat: "3",
      id: "n1",
      string: "3",
      fret: "5",
      status: "played",
      clean: "outside",
      error_cents: "-18",
      u_cents: "1",
      hold_sd_cents: "3.5",
      landing_error_cents: "-4",
      beat_hz: "1.5",
      vibrato_rate_hz: "5",
      vibrato_rate_cv: "0.1",
      vibrato_extent_cents: "60",
      vibrato_extent_cv: "0.1",
      vibrato_return_error_cents: "2",
      time_error_ms: "-12",
      level_db: "-21",
      level_deviation_db: "1.25",
      length_ratio: "0.9",
      overlap_ms: "15",
      ring_db: "-33",
      ring_string: "6",
      decay_ms: "180",
    });
    expect(second.slice(0, 6)).toEqual(["8", "1", "n1", "3", "0", "played"]);
    expect(new Set(second.slice(6))).toEqual(new Set([""]));
  });
});

describe("the worst notes", () => {
  const worst = (parts: object[], most = 9) =>
    worstNotes(
      parts.map((part, i) => row(noteOf({ id: `n${i}`, clean: "outside", ...part }), i)),
      LIMITS,
      most,
    ).map((r) => r.place);

  it("are those furthest past their own limits, another pitch before one not heard before twice too far", () => {
    expect(
      worst([
        plain(21.9),
        { status: "missed", clean: null },
        { status: "wrong_pitch" },
        plain(-22.1),
        plain(12),
      ]),
    ).toEqual([2, 3, 1, 0, 4]);
  });

  it("weigh pitch, time, volume and ring alike", () => {
    // 1.5, 2, 4/3 of the limit, and 1 + 20/40 of a ring at -20 dB.
    const level = { level: { deviation_db: -4, verdict: "outside" } };
    expect(worst([level, plain(16.5), late])).toEqual([2, 1, 0]);
    expect(worst([level, rings, { ...plain(16.4), timing: { error_ms: 9 } }])).toEqual([1, 2, 0]);
    expect(worst([{ level: { deviation_db: 30, way: "accented" } }, plain(5)])).toEqual([1, 0]);
    expect(worst([{ noise: { verdict: "inside", worst_ring_db: 0 } }, plain(2)])).toEqual([1, 0]);
    expect(worst([{ noise: { verdict: "outside", worst_ring_db: null } }, plain(11.1), plain(10.9)])).toEqual(
      [1, 0, 2],
    );
    expect(worst([{ timing: { error_ms: 99 } }, plain(1)])).toEqual([1, 0]);
  });

  it("are of those that are off, the first of two alike first, and no more than asked", () => {
    expect(worst([plain(12), plain(-12), { clean: "unclear", ...plain(99) }, plain(50)], 2)).toEqual([3, 0]);
  });

  it("have one repeat of an event, its worst, but each of its strings", () => {
    const notes = heardNotes({
      "n1@0": { clean: "outside", ...plain(20) } as unknown as NotePart,
      "n1@2": { clean: "outside", ...plain(-30) } as unknown as NotePart,
    });
    const other = row(noteOf({ clean: "outside", string: 4, ...plain(14) }), 99);
    expect(worstNotes([...notes, other], LIMITS, 9).map((n) => n.key)).toEqual(["n1@2", "n1@0"]);
    expect(worstNotes([...notes, other], LIMITS, 9)[1]?.note.string).toBe(4);
  });
});
