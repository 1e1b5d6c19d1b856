import { describe, expect, it } from "vitest";
import { shapeLayout } from "./shape.math";

describe("a drill's shape", () => {
  it("has its notes one after the other, those struck together above each other", () => {
    const laid = shapeLayout(
      [
        [0, 6, 3, ""],
        [0, 5, 5, ""],
        [1, 6, null, ""],
      ],
      6,
      156,
    );
    expect(laid.lines).toHaveLength(6);
    expect(laid.notes.map((n) => n.text)).toEqual(["3", "5", "×"]);
    const [root, fifth, muted] = laid.notes;
    expect(root?.x).toBe(fifth?.x);
    expect(root?.y).toBeGreaterThan(fifth?.y ?? 0);
    expect(muted?.x).toBeGreaterThan(root?.x ?? 0);
    expect(laid.arcs).toEqual([]);
  });

  it("shows as many notes as there is room for, all inside the picture", () => {
    const many = Array.from({ length: 12 }, (_, i) => [i, 2, 5 + i, ""] as [number, number, number, ""]);
    for (const width of [60, 90, 156, 260]) {
      const laid = shapeLayout(many, 6, width);
      expect(Math.max(...laid.notes.map((n) => n.x))).toBeLessThanOrEqual(width - 6);
      expect(laid.widthPx).toBeLessThanOrEqual(width);
    }
    expect(shapeLayout(many, 6, 60).notes).toHaveLength(4);
    expect(shapeLayout(many, 6, 260).notes).toHaveLength(12);
  });

  it("draws what is done: up for a bend, a wave, and from the note before on the same string alone", () => {
    const laid = shapeLayout(
      [
        [0, 3, 7, "bend"],
        [1, 2, 5, "vibrato"],
        [2, 1, 8, "slur"],
        [3, 2, 8, "slur"],
        [4, 2, 10, "slide"],
      ],
      6,
      156,
    );
    expect(laid.arcs.map((a) => a.key)).toEqual(["0/3", "1/2", "3/2", "4/2"]);
  });

  it("is as low as its strings where a list has to stay dense", () => {
    const laid = shapeLayout(
      [
        [0, 3, 7, ""],
        [1, 2, 8, ""],
      ],
      6,
      156,
      true,
    );
    expect(laid.lines).toHaveLength(2);
    expect(laid.heightPx).toBeLessThan(30);
    expect(laid.notes.map((n) => n.y)).toEqual([laid.lines[1], laid.lines[0]]);
  });

  it("of nothing is an empty tab", () => {
    expect(shapeLayout([], 6, 156).notes).toEqual([]);
  });
});
