import { describe, expect, it } from "vitest";
import type { Series } from "~/api/week";
import { coreChanges, layout, numberWords, roundStep, spanOf } from "./chart.math";

const FRAME = { widthPx: 500, heightPx: 160, leftPx: 40, bottomPx: 20 };

function series(values: number[], part: Partial<Series> = {}): Series {
  return {
    key: "bend_error",
    title: "Bend error",
    unit: "cents",
    wanted: "zero",
    limit: 15,
    trend: null,
    says: "",
    points: values.map((value, i) => ({
      take_id: `t${i}`,
      played_at: `2026-11-${String(10 + i).padStart(2, "0")}T19:00:00Z`,
      core_version: i < 2 ? "0.1" : "0.2",
      bpm: 66,
      per_click: null,
      guitar_id: null,
      setup_take_id: null,
      value,
      u: 2,
    })),
    ...part,
  };
}

describe("a chart over time", () => {
  it("spans its values, their uncertainty and the tolerance about zero", () => {
    const [low, high] = spanOf(series([-40, -5]));
    expect(low).toBeLessThan(-42);
    expect(high).toBeGreaterThan(15);
    expect(spanOf(series([4, 6], { wanted: "low", limit: null }))[0]).toBe(0);
  });
  it("puts sharp above and flat below, late on the right", () => {
    const { points, band } = layout(series([-40, 30]), FRAME);
    expect(points.map((p) => p.side)).toEqual(["under", "over"]);
    expect(points[0]?.yPx).toBeGreaterThan(points[1]?.yPx ?? 0);
    expect(points[0]?.xPx).toBeLessThan(points[1]?.xPx ?? 0);
    expect(band?.[0]).toBeLessThan(band?.[1] ?? 0);
  });
  it("ends a share at nothing and at all", () => {
    const clean = series([100, 90], { wanted: "high", limit: null, unit: "%" });
    for (const p of clean.points) p.u = 19;
    expect(layout(clean, FRAME).points[0]?.bar?.[0]).toBeCloseTo(layout(clean, FRAME).points[0]?.yPx ?? 0);
  });
  it("marks where another version of the measuring begins", () => {
    const laid = layout(series([1, 2, 3]), FRAME);
    const changes = coreChanges(laid);
    expect(changes).toHaveLength(1);
    expect(changes[0]?.core).toBe("0.2");
  });
  it("has round lines and a true minus", () => {
    expect([roundStep(57, 4), roundStep(8, 4), roundStep(0.3, 4)]).toEqual([20, 2, 0.1]);
    expect(numberWords(-4.25, "cents")).toBe("−4.3 cents");
    expect(numberWords(0.214, "")).toBe("0.21");
  });
  it("gives one day's takes a week of room", () => {
    const { points } = layout(series([5]), FRAME);
    expect(points[0]?.xPx).toBe(44);
  });
});
