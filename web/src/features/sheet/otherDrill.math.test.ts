import { describe, expect, it } from "vitest";
import { looksLikeAnother, unlikeIn, unlikeWords } from "./otherDrill.math";

const unlike = (part: Partial<Parameters<typeof looksLikeAnother>[0]>) => ({
  asked: 60,
  missed: 0,
  wrong: 0,
  extra: 0,
  ...part,
});

describe("another drill", () => {
  it.each([
    [15, 0, 15, true],
    [14, 0, 15, false],
    [15, 0, 14, false],
    [0, 15, 0, true],
    [0, 14, 0, false],
    [10, 5, 20, true],
  ])(
    "may have been played where of 60 notes %d are missed, %d wrong and %d others heard: %s",
    (missed, wrong, extra, said) => {
      expect(looksLikeAnother(unlike({ missed, wrong, extra }))).toBe(said);
    },
  );

  it("is not thought of where the student stopped, or played on", () => {
    expect(looksLikeAnother(unlike({ missed: 40 }))).toBe(false);
    expect(looksLikeAnother(unlike({ extra: 30 }))).toBe(false);
  });

  it("is not thought of for a few notes", () => {
    expect(looksLikeAnother(unlike({ asked: 7, wrong: 7 }))).toBe(false);
    expect(looksLikeAnother(unlike({ asked: 8, wrong: 7 }))).toBe(true);
  });

  it("is counted from notes and extras, without what was struck twice or begun again", () => {
    const notes = ["played", "missed", "missed", "wrong_pitch", "partly_played"].map((status) => ({
      status,
    }));
    const extras = ["double_hit", "restart", "extra"].map((kind) => ({ kind }));
    expect(unlikeIn({ notes, extras })).toEqual({ asked: 5, missed: 2, wrong: 1, extra: 1 });
  });

  it("is said in words", () => {
    expect(unlikeWords(unlike({ missed: 20, wrong: 3, extra: 15 }))).toBe(
      "Of its 60 notes 20 are missing and 3 have another pitch, and 15 others are heard.",
    );
    expect(unlikeWords(unlike({ wrong: 30 }))).toBe("Of its 60 notes 30 have another pitch.");
    expect(unlikeWords(unlike({ missed: 1, wrong: 20, extra: 1 }))).toBe(
      "Of its 60 notes 1 is missing and 20 have another pitch, and 1 other is heard.",
    );
  });
});
