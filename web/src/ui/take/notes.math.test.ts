import { describe, expect, it } from "vitest";
import type { BendFound, Note, TakeMeasured, VibratoFound } from "~/api/client";
import {
  deviations,
  findingWords as findingWordsOf,
  markOf,
  notesAsText,
  type SheetNote,
  sortNotes,
  tolerancesOf,
} from "./notes.math";

const LIMITS = tolerancesOf({
  tolerances: {
    bend_error_cents: 15,
    plain_pitch_cents: 15,
    hold_sd_cents: 10,
    beat_hz: 2,
    vibrato_return_cents: 15,
    vibrato_rate_cv: 0.2,
    vibrato_extent_cv: 0.25,
  } as TakeMeasured["tolerances"],
});
const findingWords = (note: Note) => findingWordsOf(note, LIMITS);

const PLAIN: Note = {
  id: "e1",
  repeat: 0,
  status: "played",
  string: 3,
  fret: 9,
  onset_s: 1,
  end_s: 2,
  pitch: { median_hz: 330, error_cents: 2, u: 0.3, verdict: "inside" },
  bend: null,
  vibrato: null,
  timing: null,
  level: null,
  length: null,
  noise: null,
  clean: "inside",
  measured: [],
  reasons: [],
};

const bent = (error: number | null, clean: Note["clean"]): Note => ({
  ...PLAIN,
  id: "e2",
  bend: { error_cents: error, u: 0.4, hold_sd_cents: 3, target_cents: 200 } as BendFound,
  clean,
});

describe("sheet", () => {
  it("says what was found in the trade's words", () => {
    expect(findingWords(bent(-18, "outside"))).toBe("18 cents flat");
    expect(findingWords({ ...PLAIN, status: "missed" })).toBe("Not heard");
    expect(findingWords({ ...PLAIN, status: "wrong_pitch" })).toBe("Another pitch was played");
    expect(findingWords(bent(null, "unclear"))).toBe("Could not be measured");
  });

  it("says of a unison whether it is there, of a pre-bend where it starts and lands", () => {
    const unison = (state: BendFound["state"], cents: number | null): Note => ({
      ...PLAIN,
      pitch: null,
      bend: { kind: "unison", state, difference_cents: cents, beat_hz: 3.2, target_cents: 200 } as BendFound,
    });
    expect(findingWords(unison("there", 0.4))).toBe("In unison");
    expect(findingWords(unison("under", -24))).toBe("Not there yet: 24.0 cents under");
    expect(findingWords(unison("past", 14))).toBe("Went past it: 14.0 cents over");
    expect(findingWords(unison(null, 6))).toBe("Beats 3.2 times a second");
    expect(findingWords(unison(null, null))).toBe("Could not be measured");
    const released = bent(-22, "outside");
    const bend = { ...released.bend, kind: "prebend", landing_error_cents: 3 } as BendFound;
    expect(findingWords({ ...released, bend })).toBe("Starts 22 cents flat, lands 3.0 cents sharp");
  });

  const swinging = (changes: Partial<VibratoFound>, clean: Note["clean"]): Note => ({
    ...PLAIN,
    clean,
    vibrato: {
      rate_hz: 2,
      rate_cv: 0.05,
      u_rate_cv: 0.01,
      extent_cents: 110,
      extent_cv: 0.1,
      u_extent_cv: 0.01,
      return_error_cents: 2,
      u_return: 1,
      region: [1.2, 1.9],
      cycles: 6,
      shape: "wide",
      verdict: clean ?? "unclear",
      ...changes,
    } as VibratoFound,
  });

  it("names what is wrong with a vibrato and nothing else", () => {
    expect(findingWords(swinging({}, "inside"))).toBe("Even, and comes back");
    expect(findingWords(swinging({ extent_cv: 0.4 }, "outside"))).toBe("Uneven in width");
    expect(findingWords(swinging({ return_error_cents: 26, rate_cv: 0.3 }, "outside"))).toBe(
      "Comes back 26 cents sharp, uneven in time",
    );
    expect(findingWords(swinging({}, "outside"))).toBe("Not at the rate or width asked for");
    expect(markOf(swinging({ extent_cv: 0.4 }, "outside"))).toBe("uneven");
  });

  it("draws what is off its line where it is off: hold, landing, return", () => {
    expect(deviations(PLAIN, LIMITS)).toEqual([]);
    const note = bent(-2, "outside");
    const bend = {
      ...note.bend,
      u: 0.4,
      kind: "prebend",
      verdict: "outside",
      landing_error_cents: 31,
      u_landing: 0.5,
      landing: [1.6, 1.9],
    } as BendFound;
    expect(deviations({ ...note, bend }, LIMITS)).toEqual([{ from: 1.6, to: 1.9, error: 31, about: -200 }]);
    expect(deviations(swinging({ return_error_cents: -20 }, "outside"), LIMITS)).toEqual([
      { from: 1.2, to: 1.9, error: -20, about: 0 },
    ]);
  });

  it("marks only what is not clean, under or over", () => {
    expect(markOf(PLAIN)).toBe("none");
    expect(markOf(bent(-18, "outside"))).toBe("under");
    expect(markOf(bent(18, "outside"))).toBe("over");
    expect(markOf(bent(14, "unclear"))).toBe("unclear");
    expect(markOf({ ...PLAIN, status: "missed", clean: null })).toBe("missed");
    expect(markOf({ ...PLAIN, status: "wrong_pitch", clean: "outside" })).toBe("wrong");
  });

  it("takes the tolerances the take was judged by", () => {
    const tolerances = {
      bend_error_cents: 12,
      plain_pitch_cents: 15,
      hold_sd_cents: 10,
    } as TakeMeasured["tolerances"];
    expect(tolerancesOf({ tolerances })).toMatchObject({ plainPitch: 15, bendError: 12, holdSd: 10 });
  });

  const rows: SheetNote[] = [PLAIN, bent(-18, "outside"), bent(4, "unclear")].map((note, i) => ({
    key: String(i),
    place: i + 1,
    note,
    event: undefined,
  }));

  it("sorts by size of error, by verdict, and back", () => {
    expect(sortNotes(rows, "error", true).map((r) => r.place)).toEqual([2, 3, 1]);
    expect(sortNotes(rows, "clean", false).map((r) => r.place)).toEqual([2, 3, 1]);
    expect(sortNotes(rows, "place", false).map((r) => r.place)).toEqual([1, 2, 3]);
    expect(rows.map((r) => r.place)).toEqual([1, 2, 3]);
  });

  it("sorts by each column, what has no value last when the largest comes first, ties by place", () => {
    const row = (place: number, part: object): SheetNote =>
      ({ key: String(place), place, event: null, note: { ...PLAIN, ...part } }) as unknown as SheetNote;
    const rows = [
      row(1, { timing: { error_ms: -30 }, level: { deviation_db: 0.5 }, noise: { worst_ring_db: -30 } }),
      row(2, { bend: { hold_sd_cents: 4 }, level: { deviation_db: -3 }, noise: { worst_ring_db: -12 } }),
      row(3, { timing: { error_ms: 20 }, bend: { hold_sd_cents: 0.5 } }),
      row(4, { timing: { error_ms: 0.5 }, bend: { hold_sd_cents: 0.5 }, level: { deviation_db: 0 } }),
    ];
    const order = (column: Parameters<typeof sortNotes>[1], descending = true) =>
      sortNotes(rows, column, descending).map((r) => r.place);
    expect(order("time")).toEqual([1, 3, 4, 2]);
    expect(order("hold")).toEqual([2, 3, 4, 1]);
    expect(order("level")).toEqual([2, 1, 4, 3]);
    expect(order("ring")).toEqual([2, 1, 3, 4]);
    expect(order("time", false)).toEqual([2, 4, 3, 1]);
    expect(rows.map((r) => r.place)).toEqual([1, 2, 3, 4]);
  });

  it("puts what is off first, then what is open or unsaid, then what was not heard, then what is clean", () => {
    const kinds = [
      { clean: "inside" },
      { status: "missed", clean: null },
      { clean: null },
      { clean: "unclear" },
      { clean: "outside" },
    ];
    const rows = kinds.map(
      (part, place) =>
        ({ key: String(place), place, event: null, note: { ...PLAIN, ...part } }) as unknown as SheetNote,
    );
    expect(sortNotes(rows, "clean", false).map((r) => r.place)).toEqual([4, 2, 3, 1, 0]);
  });

  it("copies as a table with one line a note", () => {
    const lines = notesAsText(rows).split("\n");
    expect(lines).toHaveLength(4);
    expect(new Set(lines.map((l) => l.split("\t").length)).size).toBe(1);
    expect(lines[2]).toContain("\t-18\t");
  });
});
