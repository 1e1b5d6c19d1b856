import { describe, expect, it } from "vitest";
import type { GuitarContent } from "~/api/client";
import { formOf, guitarOf, inUnit, shifted, unreadable } from "./guitar.math";

const GUITAR: GuitarContent = {
  format: "fortimetra-guitar",
  version: 1,
  kind: "solid",
  strings: [
    { gauge_mm: 0.254, wound: false, unit_weight_g_per_m: null },
    { gauge_mm: 0.6604, wound: true, unit_weight_g_per_m: 1.9 },
  ],
  scale_mm: 647.7,
  tuning: ["E4", 50.5],
  capo: 0,
  a4_hz: 440,
  action_treble_mm: 1.6,
  action_bass_mm: null,
  radius_mm: 241.3,
  frets: 22,
  notes: "new strings",
};

describe("the guitar's form", () => {
  it.each(["mm", "inch"] as const)("gives back in %s what it was given", (unit) => {
    expect(guitarOf(formOf("x", GUITAR, unit))).toEqual(GUITAR);
  });

  it("shows the same guitar in the other unit", () => {
    const inches = inUnit(formOf("x", GUITAR, "mm"), "inch");
    expect([inches.scale, inches.strings[0]?.gauge, inches.actionBass]).toEqual(["25.5", "10", ""]);
    expect(guitarOf(inches)).toEqual(GUITAR);
  });

  it("sends what is no number as nothing, so that the server names the field", () => {
    const form = { ...formOf("x", GUITAR, "mm"), scale: "long" };
    expect(guitarOf(form).scale_mm).toBeNull();
  });

  it("finds what may be left empty but is no number", () => {
    const form = formOf("x", GUITAR, "mm");
    expect(unreadable(form)).toBeNull();
    expect(unreadable({ ...form, radius: "" })).toBeNull();
    expect(unreadable({ ...form, radius: "flat" })).toBe("Fretboard radius");
    const strings = form.strings.map((s, i) => (i === 1 ? { ...s, unitWeight: "1.9 g" } : s));
    expect(unreadable({ ...form, strings })).toBe("Unit weight of string 2");
  });

  it("lowers the whole set by a semitone", () => {
    const form = formOf("x", { ...GUITAR, tuning: ["C4", "Bb3"] }, "mm");
    expect(shifted(form, -1).strings.map((s) => s.pitch)).toEqual(["B3", "A3"]);
    expect(shifted(form, 2).strings.map((s) => s.pitch)).toEqual(["D4", "C4"]);
  });
});
