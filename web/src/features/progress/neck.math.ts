/** A stretch of a neck in pixels: frets stand as on a guitar, each the twelfth root of two nearer. Pure. */

export interface Neck {
  frets: number[];
  /** Where the fret wires stand, the one behind the first fret too. */
  wires: number[];
  /** Between the wires of a fret, where a finger goes. */
  middle: (fret: number) => number;
}

/** From the lowest to the highest fret, a fret more at both ends and never fewer than least, over so many pixels. */
export function neckOf([lowest, highest]: [number, number], widthPx: number, least: number): Neck {
  const first = Math.max(1, lowest - 1);
  const last = Math.max(highest + 1, first + least - 1);
  const at = (fret: number) => 1 - 2 ** (-fret / 12);
  const [from, to] = [at(first - 1), at(last)];
  const x = (fret: number) => (widthPx * (at(fret) - from)) / (to - from);
  const frets = Array.from({ length: last - first + 1 }, (_, i) => first + i);
  return {
    frets,
    wires: [first - 1, ...frets].map(x),
    middle: (fret) => (x(fret - 1) + x(fret)) / 2,
  };
}
