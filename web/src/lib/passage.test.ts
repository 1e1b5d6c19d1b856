import { describe, expect, it } from "vitest";
import { GAP_S, isPlain, laidOut, lengthOf, type Passage, takeTime } from "./passage";

const passage = (part: Partial<Passage>): Passage => ({
  from: 2,
  to: 5,
  toneHz: null,
  withTake: true,
  rate: 1,
  ...part,
});

describe("passages", () => {
  it("is played as it lies where nothing has to be put in", () => {
    expect(isPlain(passage({}))).toBe(true);
    expect(isPlain(passage({ toneHz: 440, loop: true, bands: [110] }))).toBe(true);
    expect(isPlain(passage({ rate: 0.5 }))).toBe(false);
    expect(isPlain(passage({ clicks: [{ at: 3, accent: true }] }))).toBe(false);
    expect(isPlain(passage({ pieces: [{ from: 0, to: 1 }] }))).toBe(false);
  });

  it("knows which moment of the take is heard", () => {
    const laid = laidOut(passage({}));
    expect(lengthOf(laid)).toBe(3);
    expect(takeTime(laid, 0)).toBe(2);
    expect(takeTime(laid, 1.25)).toBe(3.25);
    expect(takeTime(laid, 9)).toBe(5);
    expect(takeTime([], 1)).toBeNull();
  });

  it("lays pieces one after the other with a pause, each at its own place in the take", () => {
    const laid = laidOut(
      passage({
        pieces: [
          { from: 1, to: 2 },
          { from: 7, to: 8 },
        ],
      }),
    );
    expect(lengthOf(laid)).toBeCloseTo(2 + GAP_S, 9);
    expect(takeTime(laid, 0.5)).toBe(1.5);
    expect(takeTime(laid, 1 + GAP_S / 2)).toBe(2);
    expect(takeTime(laid, 1 + GAP_S + 0.25)).toBeCloseTo(7.25, 9);
  });

  it("is shorter by as much as it is raised: an octave is half as long", () => {
    const [laid] = laidOut(passage({ pieces: [{ from: 0, to: 2, cents: 1200 }] }));
    expect(laid?.speed).toBe(2);
    expect(laid?.lengthS).toBe(1);
    const [flat] = laidOut(passage({ pieces: [{ from: 0, to: 2, cents: -35 }] }));
    expect(1200 * Math.log2(flat?.speed ?? 1)).toBeCloseTo(-35, 9);
  });
});
