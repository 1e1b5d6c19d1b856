import { describe, expect, it } from "vitest";
import { isUnder, shareWords, trendPoints, yOf } from "./shareTrend.math";
import { timeWords } from "./smallPlayer.math";

const share = (percent: number, low = percent, high = percent) => ({ percent, low, high });

describe("a trend of shares", () => {
  it("stands on one scale from the floor to all, whatever lies under the floor", () => {
    expect(yOf(100, 30)).toBe(3);
    expect(yOf(40, 30)).toBe(27);
    expect(yOf(5, 30)).toBe(27);
    expect(yOf(70, 30)).toBe(15);
  });

  it("has a place a week and leaves out where nothing was judged", () => {
    const points = trendPoints([share(100), null, share(70, 50, 90)], 66, 30);
    expect(points.map((p) => p && [p.x, p.y])).toEqual([[3, 3], null, [63, 15]]);
    expect(points[2]?.top).toBeLessThan(15);
    expect(points[2]?.bottom).toBeGreaterThan(15);
    expect(trendPoints([share(100)], 66, 30)[0]?.x).toBe(33);
  });

  it("is under the limit only where all it may be is", () => {
    expect(isUnder(share(90, 80, 94.9))).toBe(true);
    expect(isUnder(share(90, 80, 95))).toBe(false);
  });

  it("is said with what it may be", () => {
    expect(shareWords(share(91.6, 81.2, 97.4))).toBe("92 % (81 to 97)");
  });
});

describe("the time in a recording", () => {
  it("is minutes and seconds", () => {
    expect([0, 7.9, 61, 750].map(timeWords)).toEqual(["0:00", "0:07", "1:01", "12:30"]);
    expect(timeWords(-0.01)).toBe("0:00");
  });
});
