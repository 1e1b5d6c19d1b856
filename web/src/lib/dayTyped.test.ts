import { describe, expect, it } from "vitest";
import { typedDay } from "./dayTyped";

const on = (text: string, today = "2026-11-26") => typedDay(text, today);

describe("a day as it is typed", () => {
  it.each([
    ["26 Nov", "2026-11-26"],
    ["Thu 26 Nov", "2026-11-26"],
    ["3 March 2027", "2027-03-03"],
    ["1st dec", "2026-12-01"],
    ["26/11", "2026-11-26"],
    ["26.11.", "2026-11-26"],
    ["5.1.26", "2026-01-05"],
    ["05/01/2026", "2026-01-05"],
    ["2026-2-28", "2026-02-28"],
    ["today", "2026-11-26"],
    [" Yesterday ", "2026-11-25"],
    ["tomorrow", "2026-11-27"],
  ])("%s is %s, the day before the month", (text, day) => {
    expect(on(text)).toBe(day);
  });

  it("without a year is the nearest", () => {
    expect(on("28 Dec", "2027-01-04")).toBe("2026-12-28");
    expect(on("4 Jan", "2026-12-28")).toBe("2027-01-04");
  });

  it.each(["31 Nov", "29.2.2027", "26/13", "ten", "26", "", "99/99/9999", "2026-00-10"])(
    "%s is none",
    (text) => {
      expect(on(text)).toBeNull();
    },
  );

  it("knows leap years", () => {
    expect(on("29 Feb 2028")).toBe("2028-02-29");
  });
});
