/** Every branch of what is said, marked and drawn of a note, at and beside its limits. */
import { describe, expect, it } from "vitest";
import type { BendFound, TakeMeasured, VibratoFound } from "~/api/client";
import { bendOf, LIMITS, late, noteOf, plain, rings, row, vibratoOf } from "~/testing/found";
import {
  deviations,
  errorCents,
  findingWords,
  markOf,
  noteWords,
  placeWords,
  type SheetNote,
  sheetNotes,
  toleranceCents,
  tolerancesOf,
  uCents,
  vibratoFaults,
} from "./notes.math";

describe("a note's one error", () => {
  const all = { bend: bendOf(), vibrato: vibratoOf(), ...plain(5) };
  it("is the bend's, else the vibrato's return, else the plain pitch's, with its own u", () => {
    expect([errorCents(noteOf(all)), uCents(noteOf(all))]).toEqual([-18, 1]);
    const swung = noteOf({ vibrato: vibratoOf({ u_return: 0.4 }), ...plain(5) });
    expect([errorCents(swung), uCents(swung)]).toEqual([2, 0.4]);
    expect([errorCents(noteOf(plain(5))), uCents(noteOf(plain(5)))]).toEqual([5, 0.7]);
    expect([errorCents(noteOf()), uCents(noteOf())]).toEqual([null, null]);
    expect(errorCents(noteOf({ bend: bendOf({ error_cents: null }), ...plain(5) }))).toBeNull();
  });

  it("is held against its own limit", () => {
    expect(toleranceCents(noteOf(), LIMITS)).toBe(11);
    expect(toleranceCents(noteOf({ vibrato: vibratoOf() }), LIMITS)).toBe(14);
    expect(toleranceCents(noteOf({ bend: bendOf(), vibrato: vibratoOf() }), LIMITS)).toBe(12);
    const curl = noteOf({ bend: bendOf({ kind: "curl", target_cents: [20, 60] }) });
    expect(toleranceCents(curl, LIMITS)).toBe(20);
  });

  it("of a unison is the beat's, in cents at its pitch", () => {
    // 2 Hz at 200 Hz: 1200 log2(1.01).
    const unison = bendOf({ kind: "unison", reference_hz: 200 });
    expect(toleranceCents(noteOf({ bend: unison }), LIMITS)).toBeCloseTo(17.226, 3);
    expect(toleranceCents(noteOf({ bend: { ...unison, reference_hz: null } as BendFound }), LIMITS)).toBe(12);
  });

  it("takes every limit of the take, and none where the drill has none", () => {
    expect(LIMITS).toEqual({
      plainPitch: 11,
      bendError: 12,
      holdSd: 13,
      beatHz: 2,
      vibratoReturn: 14,
      rateCv: 0.2,
      extentCv: 0.25,
      levelDb: 3,
      slurDeficitDb: 6,
      accentLiftDb: 4,
      lengthFraction: 0.3,
      overlapMs: 40,
      ringDb: -28,
      stopMs: 250,
    });
    const { accentLiftDb, ringDb, ...others } = tolerancesOf({
      tolerances: {} as TakeMeasured["tolerances"],
    });
    expect([accentLiftDb, ringDb]).toEqual([0, 0]);
    expect(new Set(Object.values(others))).toEqual(new Set([Number.POSITIVE_INFINITY]));
  });
});

describe("what a note is called", () => {
  it.each([
    [{ bend: bendOf() }, {}, "Full bend"],
    [{ bend: bendOf({ target_cents: 100 }) }, { articulation: "repluck" }, "Half bend struck again"],
    [{ bend: bendOf({ kind: "prebend" }), vibrato: vibratoOf() }, {}, "Full pre-bend with vibrato"],
    [{ bend: bendOf({ kind: "curl", target_cents: [20, 60] }) }, {}, "20–60 cents curl"],
    [{ bend: bendOf({ kind: "release" }) }, {}, "Full release"],
    [{ bend: bendOf({ kind: "unison" }) }, {}, "Full bend to unison"],
    [{}, { id: "twelfth-3" }, "12th fret against open"],
    [{}, { id: "n1", vibrato: {} }, "Fretted note with vibrato"],
    [{ fret: null }, { id: "n1" }, "Muted string"],
    [{ fret: 0 }, { id: "n1" }, "Open string"],
    [{ fret: 1 }, { id: "n1" }, "Fretted note"],
  ])("%#: says what was played", (part, event, words) => {
    expect(noteWords(row(noteOf(part), 1, { id: "n1", ...event }))).toBe(words);
  });

  it("has its place on the neck, where it has one", () => {
    expect(placeWords(noteOf({ string: 2, fret: 0 }))).toBe("string 2, fret 0");
    expect(placeWords(noteOf({ string: 5, fret: null }))).toBe("string 5, fret –");
    expect(placeWords(noteOf({ string: null }))).toBe("");
  });

  it("is one key a string of one repeat, and shows only what the drill asks for", () => {
    const measured = {
      drill: { content: { events: [{ id: "n1", beat: 1 }], measures: ["timing"] } },
      analysis: {
        notes: [noteOf({ ...late, level: { deviation_db: 2 } }), noteOf({ id: "n9", string: null })],
      },
    } as unknown as TakeMeasured;
    const [first, second] = sheetNotes(measured) as [SheetNote, SheetNote];
    expect([first.key, second.key]).toEqual(["n1@0/3", "n9@0/1"]);
    expect([first.place, second.place]).toEqual([1, 2]);
    expect(first.note.timing?.error_ms).toBe(40);
    expect(first.note.level).toBeNull();
    expect([first.event?.beat, second.event]).toEqual([1, undefined]);
  });
});

describe("a finding in one line", () => {
  const said = (part: object) => findingWords(noteOf(part), LIMITS);
  it("is what is wrong with time or noise where the pitch is right", () => {
    expect(said({ ...plain(2, "inside"), ...late })).toBe("40 ms late");
    expect(said({ ...plain(2, "inside"), ...late, ...rings })).toBe("40 ms late, string 2 rings at −20 dB");
    expect(said({ ...plain(2, "inside"), ...rings })).toBe("String 2 rings at −20 dB");
  });

  it("begins with the pitch where that is wrong too", () => {
    expect(said({ ...plain(-20), ...late })).toBe("20 cents flat, 40 ms late");
    expect(said({ bend: bendOf(), ...late })).toBe("18 cents flat, 40 ms late");
    expect(said({ vibrato: vibratoOf({ extent_cv: 0.5 }), ...late })).toBe("Uneven in width, 40 ms late");
  });

  it("says of a string without a fret that it was struck", () => {
    expect(said({ fret: null })).toBe("Struck and silent");
    expect(said({ fret: 3 })).toBe("Could not be measured");
    expect(said({ fret: 3, ...late })).toBe("40 ms late");
  });

  it("says of a bend with vibrato where it is held, and what is uneven", () => {
    expect(said({ bend: bendOf(), vibrato: vibratoOf({ verdict: "inside" }) })).toBe("18 cents flat");
    expect(said({ bend: bendOf(), vibrato: vibratoOf({ rate_cv: 0.5 }) })).toBe(
      "18 cents flat, uneven in time",
    );
    expect(said({ vibrato: vibratoOf({ verdict: "inside" }) })).toBe("Even, and comes back");
  });

  it("says how often a unison beats, where that is known", () => {
    const unison = bendOf({ kind: "unison", state: null, difference_cents: 6, beat_hz: null });
    expect(said({ bend: unison })).toBe("Beats – times a second");
  });

  it("names a vibrato's fault only where it is off by more than its u", () => {
    const faults = (part: Partial<VibratoFound>) =>
      vibratoFaults(noteOf({ vibrato: vibratoOf(part) }), LIMITS);
    const none = ["not at the rate or width asked for"];
    expect(faults({ return_error_cents: -15.1, u_return: 1 })).toEqual(["comes back 15 cents flat"]);
    expect(faults({ return_error_cents: 15, u_return: 1 })).toEqual(none);
    expect(faults({ return_error_cents: 14.5, u_return: null })).toEqual(["comes back 15 cents sharp"]);
    expect(faults({ extent_cv: 0.5, u_extent_cv: 0.2 })).toEqual(["uneven in width"]);
    expect(faults({ extent_cv: 0.5, u_extent_cv: 0.25 })).toEqual(none);
    expect(faults({ extent_cv: 0.26, u_extent_cv: null })).toEqual(["uneven in width"]);
    expect(faults({ rate_cv: 0.35, u_rate_cv: 0.125 })).toEqual(["uneven in time"]);
    expect(faults({ rate_cv: 0.325, u_rate_cv: 0.125 })).toEqual(none);
    expect(faults({ rate_cv: 0.21, u_rate_cv: null })).toEqual(["uneven in time"]);
    expect(faults({ rate_cv: null, extent_cv: null, return_error_cents: null })).toEqual(none);
    expect(faults({ verdict: "unclear", extent_cv: 0.9 })).toEqual([]);
    expect(vibratoFaults(noteOf(), LIMITS)).toEqual([]);
  });
});

describe("a note's mark", () => {
  const mark = (part: object) => markOf(noteOf({ clean: "outside", ...part }));
  it.each([
    ["what the teacher took out, before all else", { said: "excluded", status: "missed" }, "out"],
    ["what was meant", { said: "meant", status: "missed" }, "meant"],
    ["what was not heard", { status: "missed" }, "missed"],
    ["nothing of what is clean", { clean: "inside", ...plain(20) }, "none"],
    ["nothing of what is not judged", { clean: null, ...plain(20) }, "none"],
    ["what cannot be told", { clean: "unclear", status: "wrong_pitch" }, "unclear"],
    ["another pitch, before its time", { status: "wrong_pitch", ...late }, "wrong"],
    ["late above", { ...plain(-3, "inside"), ...late }, "over"],
    ["early below", { ...plain(3, "inside"), timing: { error_ms: -40, verdict: "outside" } }, "under"],
    ["a pitch before its time", { ...plain(-20), ...late }, "under"],
    ["a string that rings", { ...plain(3, "inside"), ...rings }, "ring"],
    ["a pitch before a string that rings", { ...plain(20), ...rings }, "over"],
    ["a flat bend", { bend: bendOf() }, "under"],
    ["a flat bend, whatever its vibrato", { bend: bendOf(), vibrato: vibratoOf() }, "under"],
    [
      "a vibrato on a bend that is right",
      { bend: bendOf({ verdict: "inside" }), vibrato: vibratoOf() },
      "uneven",
    ],
    ["a vibrato alone", { vibrato: vibratoOf() }, "uneven"],
    ["a bend without a value", { bend: bendOf({ error_cents: null, verdict: "unclear" }) }, "unclear"],
    ["no pitch at all", {}, "unclear"],
    ["nothing off, as over", plain(0), "over"],
    [
      "a hold that is off although it is in tune",
      { bend: bendOf({ verdict: "inside", error_cents: 4 }) },
      "over",
    ],
  ])("is %s", (_, part, expected) => {
    expect(mark(part)).toBe(expected);
  });
});

describe("what is drawn as off", () => {
  const drawn = (part: object) => deviations(noteOf({ clean: "outside", ...part }), LIMITS);
  const whole = { from: 1, to: 1.9, about: 0 };

  it("is nothing of what was not heard whole, or is not outside", () => {
    expect(drawn({ onset_s: null, ...plain(20) })).toEqual([]);
    expect(drawn({ end_s: null, ...plain(20) })).toEqual([]);
    expect(drawn({ clean: "unclear", ...plain(20) })).toEqual([]);
  });

  it("is the plain pitch, unless something else is what is wrong", () => {
    expect(drawn(plain(20))).toEqual([{ ...whole, error: 20 }]);
    expect(drawn({ ...plain(20), ...late })).toEqual([{ ...whole, error: 20 }]);
    expect(drawn({ ...plain(2, "inside"), ...late })).toEqual([]);
    expect(drawn({ ...plain(2, "inside"), ...rings })).toEqual([]);
    expect(drawn(plain(2, "inside"))).toEqual([{ ...whole, error: 2 }]);
    expect(drawn({ ...plain(20), status: "wrong_pitch" })).toEqual([]);
    expect(drawn(plain(null))).toEqual([]);
  });

  it("is a bend's hold, or the whole note where it has none", () => {
    expect(drawn({ bend: bendOf({ plateau: [1.3, 1.7] }), ...plain(20) })).toEqual([
      { from: 1.3, to: 1.7, error: -18, about: 0 },
    ]);
    expect(drawn({ bend: bendOf() })).toEqual([{ ...whole, error: -18 }]);
    expect(drawn({ bend: bendOf({ verdict: "inside" }) })).toEqual([]);
    expect(drawn({ bend: bendOf({ error_cents: null }) })).toEqual([]);
  });

  it("is of a bend that lands the start, the landing or both, each by its own u", () => {
    const landed = (part: Partial<BendFound>) =>
      drawn({ bend: bendOf({ landing: [1.7, 1.9], u_landing: 1, ...part }) }).map((d) => [d.error, d.about]);
    expect(landed({ error_cents: 11.5, u: 1, landing_error_cents: 2 })).toEqual([[11.5, 0]]);
    expect(landed({ error_cents: 11, u: 1, landing_error_cents: 2 })).toEqual([]);
    expect(landed({ error_cents: 11, u: null, landing_error_cents: 13.5 })).toEqual([[13.5, -200]]);
    expect(landed({ error_cents: 2, landing_error_cents: -13.5 })).toEqual([[-13.5, -200]]);
    expect(landed({ error_cents: 2, landing_error_cents: 13 })).toEqual([]);
    expect(landed({ error_cents: 2, landing_error_cents: 12.5, u_landing: null })).toEqual([[12.5, -200]]);
    expect(landed({ error_cents: 2, landing_error_cents: 30, landing: null })).toEqual([]);
    expect(landed({ error_cents: 2, landing_error_cents: 30, target_cents: [100, 140] })).toEqual([
      [30, -120],
    ]);
  });

  it("is where a vibrato does not come back, over its region", () => {
    const swung = (part: Partial<VibratoFound>) => drawn({ vibrato: vibratoOf(part), ...plain(20) });
    expect(swung({ return_error_cents: -15.5 })).toEqual([{ from: 1.2, to: 1.8, error: -15.5, about: 0 }]);
    expect(swung({ return_error_cents: 15 })).toEqual([]);
    expect(swung({ return_error_cents: 14.5, u_return: null })).toHaveLength(1);
    expect(swung({ return_error_cents: 30, region: null })).toEqual([]);
  });
});
