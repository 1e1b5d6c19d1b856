import { describe, expect, it } from "vitest";
import { bendWords, centsWords, day, dayAndTime, megabytes, plusMinus, signed, verdictWords } from "./words";

describe("words", () => {
  it.each([
    [-18.2, "18 cents flat"],
    [3.14, "3.1 cents sharp"],
    [-1, "1.0 cent flat"],
    [9.96, "10 cents sharp"],
    [0.04, "in tune"],
    [-0.04, "in tune"],
  ])("says %d as %s", (cents, text) => {
    expect(centsWords(cents)).toBe(text);
  });

  it("signs numbers with a true minus and never minus zero", () => {
    expect(signed(-3.25)).toBe("−3.3");
    expect(signed(3)).toBe("+3.0");
    expect(signed(-0.01)).toBe("0.0");
    expect(signed(-400, 0)).toBe("−400");
  });

  it("shows an uncertainty only where there is one", () => {
    expect(plusMinus(0.33)).toBe("± 0.3");
    expect(plusMinus(null)).toBe("");
    expect(plusMinus(3.9, 1, 0.7)).toBe("(+0.7 −3.9)");
    expect(plusMinus(1.2, 1, 12.6)).toBe("(+12.6 −1.2)");
    expect(plusMinus(0.36, 1, 0.35)).toBe("± 0.4");
  });

  it("names bends by their frets", () => {
    expect(bendWords(100)).toBe("half");
    expect(bendWords(200)).toBe("full");
    expect(bendWords(150)).toBe("150 cents");
    expect(bendWords([20, 80])).toBe("20–80 cents");
  });

  it("has a word for every verdict", () => {
    expect([
      verdictWords("inside"),
      verdictWords("outside"),
      verdictWords("unclear"),
      verdictWords(null),
    ]).toEqual(["clean", "not clean", "cannot tell", "cannot tell"]);
  });

  it("shows times in the studio's zone", () => {
    expect(dayAndTime("2026-11-09T17:30:00Z", "Europe/Lisbon")).toContain("17:30");
    expect(dayAndTime("2026-11-09T23:30:00Z", "Asia/Tokyo")).toContain("Tue 10 Nov");
  });

  it("says the year where it is another one", () => {
    expect(day("2026-11-26T12:00:00Z", "UTC")).toBe("26 November");
    expect(day("2025-11-26T12:00:00Z", "UTC")).toBe("26 November 2025");
    // The year begins with the studio, not with the reader.
    expect(day("2025-12-31T23:30:00Z", "Asia/Tokyo")).toBe("1 January");
    expect(dayAndTime("2024-02-01T12:00:00Z", "UTC")).toContain("2024");
  });

  it("sizes files for people", () => {
    expect([megabytes(10), megabytes(12_300), megabytes(1_240_000), megabytes(8.15e9)]).toEqual([
      "1 kB",
      "12 kB",
      "1.2 MB",
      "8.2 GB",
    ]);
  });
});
