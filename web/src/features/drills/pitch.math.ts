const LETTERS: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/** MIDI number of an open string, given either way. */
export function midiOf(pitch: string | number): number {
  if (typeof pitch === "number") return pitch;
  const [, letter = "C", sign = "", octave = "4"] = /^([A-G])([#b♯♭]*)(-?\d)$/i.exec(pitch) ?? [];
  const shift = [...sign].reduce((sum, s) => sum + (s === "#" || s === "♯" ? 1 : -1), 0);
  return (LETTERS[letter.toUpperCase()] ?? 0) + shift + 12 * (Number(octave) + 1);
}
