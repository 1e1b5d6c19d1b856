import { describe, expect, it } from "vitest";
import { Problem } from "~/api/client";
import { numberIn, typedNumber, typedNumbers } from "./typed";

describe("typed numbers", () => {
  it("have a point or a comma, or are left out", () => {
    expect(typedNumber(" 2,5 ", "Minutes")).toBe(2.5);
    expect(typedNumber("2.5", "Minutes")).toBe(2.5);
    expect(typedNumber("0", "Minutes")).toBe(0);
    expect(typedNumber("  ", "Minutes")).toBeNull();
  });

  it.each(["ten", "1,000.5", "5 min", "Infinity", "--3"])("are refused with a sentence: %s", (text) => {
    expect(() => typedNumber(text, "Minutes")).toThrow(Problem);
    expect(() => typedNumber(text, "Minutes")).toThrow(`Minutes: “${text}” is no number.`);
  });

  it("have either minus, and no number is NaN", () => {
    expect(numberIn("−12,5")).toBe(-12.5);
    expect(numberIn("-3")).toBe(-3);
    expect(numberIn("")).toBeNull();
    expect(numberIn("1e999")).toBeNaN();
  });

  it("come in rows", () => {
    expect(typedNumbers("1 2, 3;4  6", "Notes")).toEqual([1, 2, 3, 4, 6]);
    expect(typedNumbers("", "Notes")).toEqual([]);
    expect(() => typedNumbers("1 2 x", "Notes")).toThrow("“x” is no number");
  });
});
