import { describe, expect, it } from "vitest";
import { addDays, daysBetween, dayWords, minutesWords } from "./days";

describe("days", () => {
  it("do not depend on where the reader is, nor on clocks that change", () => {
    expect(addDays("2026-03-28", 1)).toBe("2026-03-29"); // clocks go forward in Europe on the 29th
    expect(addDays("2026-03-29", 1)).toBe("2026-03-30");
    expect(addDays("2026-12-31", 1)).toBe("2027-01-01");
    expect(daysBetween("2026-03-28", "2026-03-30")).toBe(2);
    expect(daysBetween("2026-03-30", "2026-03-28")).toBe(-2);
  });
  it("are said in words", () => {
    expect(dayWords("2026-11-26")).toMatch(/^Thu,? 26 Nov$/);
    expect(dayWords("2025-11-26")).toMatch(/^Wed,? 26 Nov 2025$/);
    expect(minutesWords(3)).toBe("3 min");
    expect(minutesWords(2.5)).toBe("2.5 min");
  });
});
