import { describe, expect, it } from "vitest";
import { beatLines, LEAD_PX, makeAxis, secondsAt, secondsOfBeat, xOf } from "./axis.math";

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
