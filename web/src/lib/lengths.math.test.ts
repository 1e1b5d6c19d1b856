import { describe, expect, it } from "vitest";
import { gaugeMm, gaugeText, lengthMm, lengthText } from "./lengths.math";

describe("lengths", () => {
  it.each([
    [0.254, "mm", "0.254"],
    [0.254, "inch", "10"],
    [1.1684, "inch", "46"],
  ] as const)("writes a gauge of %s mm in %s as %s", (mm, unit, text) => {
    expect(gaugeText(mm, unit)).toBe(text);
    expect(gaugeMm(text, unit)).toBeCloseTo(mm, 4);
  });

  it.each([
    [648, "mm", "648"],
    [647.7, "inch", "25.5"],
    [null, "mm", ""],
  ] as const)("writes a length of %s mm in %s as %s", (mm, unit, text) => {
    expect(lengthText(mm, unit)).toBe(text);
    const back = lengthMm(text, unit);
    expect(back === null ? null : Number(back.toFixed(3))).toBe(mm);
  });

  it("takes a comma for a point and calls nonsense not a number", () => {
    expect(lengthMm("1,6", "mm")).toBe(1.6);
    expect(lengthMm("thick", "mm")).toBeNaN();
    expect(gaugeMm("", "inch")).toBeNaN();
  });
});
