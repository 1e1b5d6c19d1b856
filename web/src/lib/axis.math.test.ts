import { describe, expect, it } from "vitest";
import {
  beatLines,
  LEAD_PX,
  MOST_PX_PER_S,
  makeAxis,
  secondsAt,
  secondsOfBeat,
  stretchOf,
  wholeTake,
  xOf,
  zoomed,
} from "./axis.math";

const GRID = { bpm: 60, first_beat_s: 2 };

describe("axis", () => {
  it("turns seconds into pixels and back", () => {
    const axis = makeAxis(30, 50, GRID);
    expect(xOf(axis, 0)).toBe(LEAD_PX);
    expect(xOf(axis, 10)).toBe(LEAD_PX + 500);
    expect(secondsAt(axis, xOf(axis, 12.5))).toBeCloseTo(12.5, 9);
  });

  it("stays inside the take at both ends", () => {
    const axis = makeAxis(30, 50, GRID);
    expect(secondsAt(axis, -100)).toBe(0);
    expect(secondsAt(axis, 1e6)).toBe(30);
  });

  it("knows the time of a beat only where there is a grid", () => {
    expect(secondsOfBeat(makeAxis(30, 50, { bpm: 120, first_beat_s: 1 }), 4)).toBe(3);
    expect(secondsOfBeat(makeAxis(30, 50, { bpm: null, first_beat_s: null }), 4)).toBeNull();
    expect(secondsOfBeat(makeAxis(30, 50, { bpm: 120, first_beat_s: null }), 4)).toBeNull();
  });

  it("draws repeats, bars and beats", () => {
    const lines = beatLines(makeAxis(30, 50, GRID), 2, 8, 4);
    expect(lines).toHaveLength(17);
    expect(lines.filter((l) => l.kind === "repeat").map((l) => l.label)).toEqual([
      "repeat 1",
      "repeat 2",
      "",
    ]);
    expect(lines.filter((l) => l.kind === "bar")).toHaveLength(2);
  });

  it("leaves out beats the take does not reach", () => {
    const lines = beatLines(makeAxis(5.5, 50, GRID), 2, 8, 4);
    expect(lines).toHaveLength(4);
  });

  it("falls back to seconds without a grid", () => {
    const lines = beatLines(makeAxis(6, 50, { bpm: null, first_beat_s: null }), 2, 8, 4);
    expect(lines.map((l) => l.label).filter(Boolean)).toEqual(["0 s", "5 s"]);
  });
});

describe("stretches and zoom", () => {
  it("counts pixels from where a stretch begins", () => {
    const axis = makeAxis(900, 4000, GRID);
    const stretch = stretchOf(axis, 1_000_000, 480);
    const seconds = secondsAt(stretch, 100);
    expect(xOf(stretch, seconds)).toBeCloseTo(100, 6);
    expect(xOf(axis, seconds)).toBeCloseTo(1_000_100, 6);
    expect(stretchOf(axis, axis.widthPx - 10, 480).widthPx).toBe(10);
  });

  it("has the lines of the whole axis, each in the stretch it falls into", () => {
    const axis = makeAxis(60, 40, GRID);
    const all = beatLines(axis, 4, 8, 4);
    const parts = Array.from({ length: Math.ceil(axis.widthPx / 480) }, (_, i) => {
      const stretch = stretchOf(axis, i * 480, 480);
      return beatLines(stretch, 4, 8, 4).map((l) => ({ ...l, x: l.x + stretch.originPx }));
    }).flat();
    expect(parts.map((l) => [Math.round(l.x), l.kind, l.label])).toEqual(
      all.map((l) => [Math.round(l.x), l.kind, l.label]),
    );
  });

  it("leaves out beats, then bars, that would run into each other", () => {
    const kinds = (px: number) => new Set(beatLines(makeAxis(300, px, GRID), 40, 8, 4).map((l) => l.kind));
    expect(kinds(40)).toEqual(new Set(["repeat", "bar", "beat"]));
    expect(kinds(3)).toEqual(new Set(["repeat", "bar"]));
    expect(kinds(1)).toEqual(new Set(["repeat"]));
  });

  it("goes from the whole take to one cycle of vibrato and no further", () => {
    expect(wholeTake(300, 924)).toBeCloseTo(3, 9);
    expect(wholeTake(0, 924)).toBeCloseTo(9000, 6);
    expect(wholeTake(0.05, 924)).toBeCloseTo(9000, 6);
    expect(wholeTake(9000, 924)).toBe(0.2);
    expect(zoomed(50, 0.001, 300, 924)).toBeCloseTo(3, 9);
    expect(zoomed(50, 1000, 300, 924)).toBe(MOST_PX_PER_S);
    expect(zoomed(50, 2, 300, 924)).toBe(100);
  });
});

describe("lines at their limits", () => {
  const free = (px: number, seconds = 20) => makeAxis(seconds, px, { bpm: null, first_beat_s: null });
  const xs = (axis: ReturnType<typeof makeAxis>, ...rest: [number, number, number, number?]) =>
    beatLines(axis, ...rest).map((l) => l.x);

  it("has seconds, or fives, halves of a minute, minutes, so that none is closer than 5 px", () => {
    const gaps = (px: number) => {
      const [a, b] = xs(free(px, 900), 1, 4, 4) as [number, number];
      return Math.round((b - a) / px);
    };
    expect([5, 4.9, 1, 0.9, 0.2, 0.16, 0.05].map(gaps)).toEqual([1, 5, 5, 30, 30, 60, 60]);
    const lines = beatLines(free(1, 60), 1, 4, 4);
    expect(lines.filter((l) => l.kind === "bar").map((l) => l.label)).toEqual(["0 s", "25 s", "50 s"]);
    expect(lines.filter((l) => l.kind === "beat")).toHaveLength(10);
  });

  it("has the last second of a take, and those beside a stretch that are asked for", () => {
    expect(xs(free(10, 3), 1, 4, 4)).toEqual([12, 22, 32, 42]);
    const stretch = stretchOf(free(10), 62, 20);
    expect(xs(stretch, 1, 4, 4)).toEqual([0, 10, 20]);
    expect(xs(stretch, 1, 4, 4, 20)).toEqual([-20, -10, 0, 10, 20, 30, 40]);
  });

  it("writes every so many repeats' number, so that 60 px lie between two", () => {
    const named = (px: number) =>
      beatLines(makeAxis(300, px, GRID), 40, 4, 4).flatMap((l) => (l.label ? [l.label] : []));
    expect(named(15).slice(0, 3)).toEqual(["repeat 1", "repeat 2", "repeat 3"]);
    expect(named(14.9).slice(0, 3)).toEqual(["repeat 1", "repeat 3", "repeat 5"]);
    expect(named(15)).toHaveLength(40);
  });

  it("has bars and beats from 5 px on, and none before the first beat", () => {
    const kinds = (px: number) => new Set(beatLines(makeAxis(60, px, GRID), 4, 8, 4).map((l) => l.kind));
    expect(kinds(5).has("beat")).toBe(true);
    expect(kinds(4.9).has("beat")).toBe(false);
    expect(kinds(1.25).has("bar")).toBe(true);
    expect(kinds(1.24).has("bar")).toBe(false);
    expect(xs(makeAxis(30, 10, GRID), 1, 4, 4)).toEqual([32, 42, 52, 62, 72]);
  });

  it("is never narrower than nothing, nor begins outside of the whole", () => {
    const axis = makeAxis(10, 10, GRID);
    expect(axis.widthPx).toBe(124);
    expect(makeAxis(10.01, 10, GRID).widthPx).toBe(125);
    expect(stretchOf(axis, -5, 50)).toMatchObject({ originPx: 0, widthPx: 50 });
    expect(stretchOf(axis, 500, 50)).toMatchObject({ originPx: 124, widthPx: 1 });
    expect(xOf(stretchOf(axis, 100, 20), 10)).toBe(12);
  });
});
