import { describe, expect, it } from "vitest";
import { looksLikeAnother } from "./otherDrill.math";

const counts = (part: Partial<Parameters<typeof looksLikeAnother>[0]>) => ({
  clean: 0,
  not_clean: 0,
  unclear: 0,
  missed: 0,
  extra: 0,
  ...part,
});

describe("another drill", () => {
  it.each([
    [10, 10, true],
    [9, 10, false],
    [10, 9, false],
  ])(
    "may have been played where of 60 notes %d are missed and %d others heard: %s",
    (missed, extra, said) => {
      expect(
        looksLikeAnother(counts({ clean: 30, not_clean: 10, unclear: 20 - missed, missed, extra })),
      ).toBe(said);
    },
  );

  it("is not thought of where the student stopped, or played on", () => {
    expect(looksLikeAnother(counts({ clean: 20, missed: 40 }))).toBe(false);
    expect(looksLikeAnother(counts({ clean: 60, extra: 30 }))).toBe(false);
  });

  it("is not thought of for a few notes", () => {
    expect(looksLikeAnother(counts({ clean: 5, missed: 2, extra: 4 }))).toBe(false);
    expect(looksLikeAnother(counts({ clean: 6, missed: 2, extra: 4 }))).toBe(true);
  });
});
