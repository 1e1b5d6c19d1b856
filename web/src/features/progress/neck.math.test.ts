import { describe, expect, it } from "vitest";
import { neckOf } from "./neck.math";

describe("a stretch of a neck", () => {
  it("has its wires as on a guitar: each fret 2^(-1/12) of the one before", () => {
    const { wires } = neckOf([7, 9], 600, 3);
    expect(wires[0]).toBeCloseTo(0);
    expect(wires.at(-1)).toBeCloseTo(600);
    const widths = wires.slice(1).map((x, i) => x - (wires[i] as number));
    for (let i = 1; i < widths.length; i += 1)
      expect((widths[i] as number) / (widths[i - 1] as number)).toBeCloseTo(2 ** (-1 / 12), 6);
  });

  it("has a fret more at both ends, and enough of them", () => {
    expect(neckOf([7, 9], 600, 5).frets).toEqual([6, 7, 8, 9, 10]);
    expect(neckOf([1, 1], 600, 5).frets).toEqual([1, 2, 3, 4, 5]);
    const neck = neckOf([7, 7], 600, 5);
    expect(neck.middle(7)).toBeGreaterThan(neck.wires[1] as number);
    expect(neck.middle(7)).toBeLessThan(neck.wires[2] as number);
  });
});
