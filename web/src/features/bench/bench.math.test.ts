import { describe, expect, it } from "vitest";
import type { BenchCalculator, GuitarContent } from "~/api/client";
import { shortQuery } from "~/lib/useQueryFields";
import { cellText, fieldsFrom, rangesText, valueText } from "./bench.math";

const input = (name: string, value: number | string) => ({
  name,
  label: name,
  default: value,
  unit: "",
  low: null,
  high: null,
  choices: [],
  pitch: false,
  whole: false,
  many: false,
});
const CALCULATOR: BenchCalculator = {
  id: "tension",
  title: "",
  purpose: "",
  formula: "",
  source: "",
  limits: "",
  inputs: [
    input("gauge", 10),
    input("gauge_unit", "thousandths"),
    input("action_mm", 1.8),
    input("note", "E4"),
  ],
  outputs: [],
};
const GUITAR = {
  kind: "solid",
  strings: [
    { gauge_mm: 0.254, wound: false },
    { gauge_mm: 0.33, wound: false },
    { gauge_mm: 0.6604, wound: true },
  ],
  tuning: ["E4", "B3", "D3"],
  scale_mm: 648,
  a4_hz: 440,
  capo: 0,
  frets: 22,
  action_treble_mm: 1.6,
  action_bass_mm: 2,
} as unknown as GuitarContent;

describe("the bench", () => {
  it("fills a calculator's own fields from a string of a guitar", () => {
    expect(fieldsFrom(CALCULATOR, GUITAR, 3)).toEqual({
      gauge: "26",
      gauge_unit: "thousandths",
      action_mm: "2",
      note: "D3",
    });
    expect(fieldsFrom(CALCULATOR, GUITAR, 2).action_mm).toBe("1.8");
    expect(fieldsFrom(CALCULATOR, GUITAR, 9)).toEqual({});
  });

  it("says which values a calculator's fields take", () => {
    const inputs = [{ ...input("a", 1), low: -5, high: 9, unit: "mm" }, input("free", 1)];
    expect(rangesText({ ...CALCULATOR, inputs })).toBe("Fields: a −5 to 9 mm.");
    expect(rangesText(CALCULATOR)).toBe("");
  });

  it("keeps an address short: only what differs from the defaults", () => {
    const defaults = { gauge: "10", note: "E4" };
    expect(shortQuery({ gauge: "11", note: "E4" }, defaults)).toBe("gauge=11");
    expect(shortQuery({ gauge: "", note: "E4" }, defaults)).toBe("gauge=");
    expect(shortQuery(defaults, defaults)).toBe("");
  });

  it.each([
    [82.40689, 3, "82.407"],
    [-4.25, 1, "−4.3"],
    ["chokes", 2, "chokes"],
    [null, 2, "–"],
  ] as const)("writes %s with %s digits as %s", (value, digits, text) => {
    expect(valueText(value, digits)).toBe(text);
  });

  it.each([
    [12, "12"],
    [466.16149, "466.2"],
    [5.106, "5.11"],
    [0.1234, "0.123"],
    [null, "–"],
  ] as const)("writes a cell of %s as %s", (value, text) => {
    expect(cellText(value)).toBe(text);
  });
});
