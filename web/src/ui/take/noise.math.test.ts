import { describe, expect, it } from "vitest";
import type { NoiseEvent, Note } from "~/api/client";
import { heardNote, type NotePart } from "~/testing/notes";
import {
  eventWords,
  noiseFacts,
  noiseFaults,
  notesDuring,
  ringBands,
  ringUnder,
  touchWords,
} from "./noise.math";

const EVENT = {
  kind: "open_ring",
  string: 4,
  from_s: 6,
  to_s: 6.4,
  level_db: -22.4,
  u: 1.5,
  near: "e3",
  fret: 0,
  hz: 146.83,
} as NoiseEvent;
const NOTE = {
  reasons: ["open_ring"],
  onset_s: 5.9,
  end_s: 6.2,
  chord: null,
  noise: { worst_ring_db: -22.4, string: 4, u: 1.5, verdict: "outside" },
} as unknown as Note;

describe("noise", () => {
  it("names what sounds", () => {
    expect(eventWords(EVENT)).toBe("String 4 rings");
    expect(eventWords({ ...EVENT, kind: "after_stop", fret: 5 })).toBe(
      "String 4, fret 5, sounds after the stop",
    );
    expect(eventWords({ ...EVENT, kind: "scrape", string: null })).toBe("Scrape");
    expect(eventWords({ ...EVENT, kind: "hum", string: null, hz: 50 })).toBe("Hum of the rig, 50 Hz");
  });

  it("says what is outside of a note, and nothing of a clean one", () => {
    expect(noiseFaults(NOTE)).toEqual(["string 4 rings at −22 dB"]);
    const stop = {
      ...NOTE,
      reasons: ["rings_after_stop"],
      noise: { ...NOTE.noise, stop_verdict: "outside", decay_ms: 420 },
    };
    expect(noiseFaults(stop as Note)).toEqual(["420 ms until it is silent"]);
    const absent = {
      ...NOTE,
      noise: null,
      chord: { present: false, level_db: null, balance_db: null, u: null, verdict: "outside" },
    };
    expect(noiseFaults(absent as Note)).toEqual(["is not heard in the chord"]);
    expect(noiseFaults({ ...NOTE, noise: { ...NOTE.noise, verdict: "inside" } } as Note)).toEqual([]);
  });

  it("says by which side a string can be touched", () => {
    expect(touchWords(6, [3, 4])).toContain("picking hand");
    expect(touchWords(1, [3])).toContain("underside");
    expect(touchWords(2, [3, 1])).toContain("idle finger");
    expect(touchWords(3, [3])).toBe("");
  });

  it("lets through only partials that nothing played covers", () => {
    // Open A under the A an octave higher: its even partials are that note's.
    expect(ringBands(110, [220])).toEqual([110, 330, 550, 770, 990, 1210, 1430, 1650, 1870, 2090]);
    expect(ringBands(220, [220])).toEqual([]);
  });

  it("finds the notes that sound meanwhile", () => {
    expect(notesDuring([{ note: NOTE }], EVENT)).toHaveLength(1);
    expect(notesDuring([{ note: NOTE }], { ...EVENT, from_s: 7, to_s: 8 })).toHaveLength(0);
  });

  it("sums up what was heard and from which level on", () => {
    const strings = [-33, -30, -20].map((floor_db, i) => ({
      string: i + 1,
      events: 0,
      seconds: 0,
      worst_db: null,
      floor_db,
    }));
    const facts = noiseFacts({
      noise: { strings, decay_ms: 180, scrapes: 2, hum_db: -41, echo: null, driven: true },
    } as never);
    expect(facts.map((f) => f.value)).toEqual(["−30 dB", "180 ms", "2", "−41 dB", "yes"]);
    expect(noiseFacts({ noise: null } as never)).toEqual([]);
  });
});

describe("noise, at and beside its limits", () => {
  it("names each kind, the fret only where a string is stopped", () => {
    const said = (part: object) => eventWords({ ...EVENT, ...part } as NoiseEvent);
    expect(said({ kind: "pressed", fret: 7 })).toBe("String 4, fret 7, is pressed and sounds");
    expect(said({ kind: "bleed", fret: null })).toBe("String 4 rings on");
    expect(said({ kind: "thud", string: null })).toBe("Thud");
    expect(said({ kind: "hum", string: null, hz: null })).toBe("Hum of the rig");
    expect(said({ kind: "scrape", string: null, hz: 900 })).toBe("Scrape");
  });

  it("says of a chord's string which way it is off, and nothing where it is not", () => {
    const chord = (part: object) => noiseFaults({ noise: null, chord: part } as unknown as Note);
    expect(chord({ present: true, verdict: "outside", balance_db: -7.26 })).toEqual([
      "7.3 dB soft against its chord",
    ]);
    expect(chord({ present: true, verdict: "outside", balance_db: 7.26 })).toEqual([
      "7.3 dB loud against its chord",
    ]);
    expect(chord({ present: true, verdict: "outside", balance_db: 0 })).toEqual([
      "0.0 dB loud against its chord",
    ]);
    expect(chord({ present: true, verdict: "outside", balance_db: null })).toEqual([]);
    expect(chord({ present: true, verdict: "unclear", balance_db: 9 })).toEqual([]);
    expect(noiseFaults({} as Note)).toEqual([]);
  });

  it("names the string that rings where it is what is wrong, and how long a stop takes where that is", () => {
    const said = (reasons: string[] | undefined, part: object) =>
      noiseFaults({ ...NOTE, reasons, noise: { ...NOTE.noise, ...part } } as Note);
    const slow = { stop_verdict: "outside", decay_ms: 420.4 };
    expect(said(["open_ring"], slow)).toEqual(["string 4 rings at −22 dB", "420 ms until it is silent"]);
    expect(said(["pressed"], slow)).toHaveLength(2);
    expect(said(["bleed"], slow)).toHaveLength(2);
    expect(said(undefined, slow)).toEqual(["420 ms until it is silent"]);
    expect(said([], { stop_verdict: "inside", decay_ms: 90 })).toEqual(["string 4 rings at −22 dB"]);
    expect(said(["bleed"], { worst_ring_db: null })).toEqual([]);
    expect(said(["bleed"], { string: null })).toEqual([]);
    expect(said([], { stop_verdict: "outside", decay_ms: null })).toEqual([]);
  });

  it("says nothing of where to touch when nothing is played, or the string itself is", () => {
    expect(touchWords(2, [])).toBe("");
    expect(touchWords(2, [3, 2])).toBe("");
    expect(touchWords(4, [3])).toContain("picking hand");
    expect(touchWords(2, [3])).toContain("underside");
  });

  it("lets at most ten partials through, below 3.2 kHz, over 25 Hz from what is played", () => {
    expect(ringBands(100, [])).toHaveLength(10);
    expect(ringBands(1600, [])).toEqual([1600]);
    expect(ringBands(1599, [])).toEqual([1599, 3198]);
    expect(ringBands(400, [425])).toEqual([800, 1200, 1600, 2000, 2400, 2800]);
    expect(ringBands(400, [426])).toContain(400);
    // Under half of what is played is nearest to its first partial, not to nothing.
    expect(ringBands(20, [44])).not.toContain(20);
  });

  it("takes a note that ends, or begins, just as the noise does for one beside it", () => {
    const during = (onset_s: number | null, end_s: number | null) =>
      notesDuring([{ note: { ...NOTE, onset_s, end_s } as Note }], EVENT).length;
    expect([during(6.4, 7), during(5, 6)]).toEqual([0, 0]);
    expect([during(6.39, 7), during(5, 6.01)]).toEqual([1, 1]);
    expect([during(null, 7), during(5, null)]).toEqual([0, 0]);
  });

  it("tells a whole take's noise only where there is some, the middle string's floor for all", () => {
    const facts = (part: object) =>
      noiseFacts({
        noise: { strings: [], decay_ms: null, scrapes: 0, hum_db: null, driven: false, ...part },
      } as never);
    expect(facts({})).toEqual([]);
    expect(facts({ decay_ms: 0 }).map((f) => f.value)).toEqual(["0 ms"]);
    expect(facts({ hum_db: 0, scrapes: 1 }).map((f) => f.label)).toEqual(["Scrapes", "Hum of the rig"]);
    const strings = [-20, null, -50, -30, -40].map((floor_db) => ({ floor_db }));
    expect(facts({ strings }).map((f) => f.value)).toEqual(["−30 dB"]);
    expect(facts({ strings: [{ floor_db: null }] })).toEqual([]);
  });

  it("finds the loudest string under a note, or up to 0.3 s after it", () => {
    const note = heardNote(6, 0);
    const rung = (from_s: number, to_s: number, level_db: number, part: object = {}) =>
      ({ ...EVENT, from_s, to_s, level_db, ...part }) as NoiseEvent;
    const soft = rung(6.1, 6.3, -30);
    const loud = rung(6.2, 6.4, -12);
    expect(ringUnder(note, [soft, loud, rung(6.1, 6.2, -25)])).toBe(loud);
    expect(ringUnder(note, [rung(7.19, 8, -9)])).not.toBeNull();
    expect(ringUnder(note, [rung(7.2, 8, -9)])).toBeNull();
    expect(ringUnder(note, [rung(5, 6, -9)])).toBeNull();
    expect(ringUnder(note, [rung(5, 6.01, -9)])).not.toBeNull();
    expect(ringUnder(note, [rung(6, 7, -9, { string: null }), rung(6, 7, -9, { hz: null })])).toBeNull();
    const lost = (part: NotePart) => ringUnder(heardNote(6, 0, part), [soft]);
    expect([lost({ onset_s: null }), lost({ end_s: null }), ringUnder(null, [soft])]).toEqual([
      null,
      null,
      null,
    ]);
  });
});
