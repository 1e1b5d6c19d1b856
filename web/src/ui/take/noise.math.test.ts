import { describe, expect, it } from "vitest";
import type { NoiseEvent, Note } from "~/api/client";
import { eventWords, noiseFacts, noiseFaults, notesDuring, ringBands, touchWords } from "./noise.math";

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
