import { describe, expect, it } from "vitest";
import { guess } from "./guess.math";

const drills = [
  "String 3: full bend at fret 7",
  "String 3: half bend at fret 7",
  "String 1: half bend at fret 5",
  "Legato in 3s: strings 3 and 2, position 5",
].map((name, id) => ({ id, name }));
const students = ["Oda Vintersee", "Pell Harroway", "Mirren Salk"].map((name, id) => ({ id, name }));

describe("guessing from a file's name", () => {
  it.each([
    ["oda string 3 full bend 7.wav", "String 3: full bend at fret 7"],
    ["Pell_String-1_half_bend_fret5 (2).flac", "String 1: half bend at fret 5"],
    ["legato.mp3", "Legato in 3s: strings 3 and 2, position 5"],
  ])("finds the drill of %s", (file, name) => expect(guess(file, drills)?.name).toBe(name));

  it.each([
    ["oda string 3 full bend 7.wav", "Oda Vintersee"],
    ["HARROWAY 2026-11-24.m4a", "Pell Harroway"],
  ])("finds the student of %s", (file, name) => expect(guess(file, students)?.name).toBe(name));

  it("finds it among many that are nearly the same, a copy included", () => {
    const many = [1, 2, 3, 4].flatMap((string) =>
      [3, 5, 7, 9].flatMap((fret) =>
        ["half", "full"].map((size) => `String ${string}: ${size} bend at fret ${fret}`),
      ),
    );
    const named = [...many, "String 3: full bend at fret 7, copy"].map((name, id) => ({ id, name }));
    expect(guess("oda string 3 full bend fret 7.flac", named)?.name).toBe("String 3: full bend at fret 7");
    expect(guess("full bend.flac", named)).toBeNull();
  });

  it.each(["take 4.wav", "recording.m4a", "bend.wav", "2026-11-24 19.12.flac", ""])(
    "does not guess from %s",
    (file) => {
      expect(guess(file, students)).toBeNull();
      expect(guess(file, drills)).toBeNull();
    },
  );
});
