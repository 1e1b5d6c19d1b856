import { describe, expect, it } from "vitest";
import type { BendFound, Note, TakeMeasured } from "~/api/client";
import { findingWords, markOf, notesAsText, type SheetNote, sortNotes, tolerancesOf } from "./notes.math";

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
    expect(tolerancesOf({ tolerances })).toEqual({ plainPitch: 15, bendError: 12, holdSd: 10 });
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

  it("copies as a table with one line a note", () => {
    const lines = notesAsText(rows).split("\n");
    expect(lines).toHaveLength(4);
    expect(new Set(lines.map((l) => l.split("\t").length)).size).toBe(1);
    expect(lines[2]).toContain("\t-18\t");
  });
});
