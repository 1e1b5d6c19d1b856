import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import { bitsFor, wavFile } from "~/lib/wav.math";
import { ALWAYS, beatShown, ladder, planClicks } from "./clickPlan.math";
import { joined } from "./engine";
import { humIn, InputWatch, lostIn, merged, toDb, toneDbfs } from "./input.math";
import { inputFindings } from "./inputWords.math";

const RATE = 48_000;
const drill = (changes = {}) =>
  ({
    tempo: { bpm: 120, beats_per_bar: 4, count_in_beats: 4, swing: 0.5 },
    repeats: 2,
    ...changes,
  }) as unknown as DrillContent;
const tone = (hz: number, amplitude: number, seconds = 1) =>
  Float32Array.from(
    { length: RATE * seconds },
    (_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / RATE),
  );
const hiss = (amplitude: number, seconds = 1) => {
  let state = 1;
  return Float32Array.from({ length: RATE * seconds }, () => {
    state = (state * 1664525 + 1013904223) % 2 ** 32;
    return amplitude * (state / 2 ** 31 - 1);
  });
};

describe("the click", () => {
  it("counts in, then stands on every beat of every repeat, the first of the bar accented", () => {
    const plan = planClicks(drill(), 8, ALWAYS);
    expect(plan?.clicks).toHaveLength(4 + 16);
    expect(plan?.clicks.map((c) => c.at)).toEqual(Array.from({ length: 20 }, (_, i) => i * 0.5));
    expect(plan?.firstBeat).toBe(2);
    expect(plan?.end).toBe(10);
    expect(plan?.clicks.filter((c) => c.kind === "accent").map((c) => c.beat)).toEqual([-4, 0, 4, 8, 12]);
  });

  it("divides the beat, falls silent for bars, but never in the count-in", () => {
    const plan = planClicks(drill(), 8, { ...ALWAYS, subdivision: 3, barsOn: 1, barsOff: 1, accent: false });
    expect(plan?.clicks).toHaveLength(60);
    expect(plan?.clicks.every((c) => c.kind !== "accent")).toBe(true);
    const silent = plan?.clicks.filter((c) => c.silent).map((c) => c.beat) ?? [];
    expect(Math.min(...silent)).toBe(4);
    expect(silent.every((b) => Math.floor(b / 4) % 2 === 1)).toBe(true);
    const counted = planClicks(drill(), 8, { ...ALWAYS, barsOn: 0, barsOff: 1 });
    expect(counted?.clicks.filter((c) => !c.silent).map((c) => c.beat)).toEqual([-4, -3, -2, -1]);
  });

  it("goes at another tempo of the ladder, and not at all in free time", () => {
    expect(planClicks(drill(), 8, { ...ALWAYS, bpm: 60 })?.firstBeat).toBe(4);
    expect(planClicks(drill({ tempo: null }), 8, ALWAYS)).toBeNull();
    expect(ladder(66)).toEqual([42, 46, 50, 54, 58, 62, 66, 70, 74, 78]);
    expect(Math.min(...ladder(30))).toBeGreaterThanOrEqual(20);
  });

  it("drifts by nothing over ten minutes", () => {
    const plan = planClicks(
      drill({ tempo: { bpm: 97, beats_per_bar: 4, count_in_beats: 4 }, repeats: 120 }),
      8,
      ALWAYS,
    );
    const last = plan?.clicks.at(-1);
    expect(last?.at).toBeCloseTo((963 * 60) / 97, 9);
  });

  it("is shown by number", () => {
    expect(beatShown(-4, 4)).toEqual({ count: "1", first: true, counting: true });
    expect(beatShown(-0.2, 4)).toEqual({ count: "4", first: false, counting: true });
    expect(beatShown(5.9, 4)).toEqual({ count: "2", first: false, counting: false });
  });
});

describe("what is recorded", () => {
  const block = (frame: number, values: number[]) => ({ frame, channels: [Float32Array.from(values)] });

  it("is joined sample by sample from the frame it counts from", () => {
    const found = joined([block(0, [1, 2, 3, 4]), block(4, [5, 6, 7, 8])], [], 0, 2, RATE);
    expect([...found.samples]).toEqual([3, 4, 5, 6, 7, 8]);
    expect(found.startFrame).toBe(2);
    expect(found.gaps).toEqual([]);
  });

  it("says where frames were lost and keeps everything else in its place", () => {
    const found = joined([block(0, [1, 2]), block(6, [7, 8])], [{ frame: 2, frames: 4 }], 0, 0, 1000);
    expect([...found.samples]).toEqual([1, 2, 0, 0, 0, 0, 7, 8]);
    expect(found.gaps).toEqual([{ at_s: 0.002, seconds: 0.004 }]);
  });

  it("tells a gap once that was found in two ways, in order of time", () => {
    const found = merged([
      { at_s: 3, seconds: 0.2 },
      { at_s: 1, seconds: 0.1 },
      { at_s: 1.05, seconds: 0.25 },
    ]);
    expect(found.map((gap) => gap.at_s)).toEqual([1, 3]);
    expect(found[0]?.seconds).toBeCloseTo(0.3, 9);
  });

  it("is nothing where nothing came", () => {
    expect(joined([], [], 0, 0, RATE).samples).toHaveLength(0);
  });

  it("is written as PCM that reads back within half a step", () => {
    const samples = Float32Array.from([0, 0.5, -0.5, 1, -1, 2, -2, 1e-4]);
    for (const bits of [16, 24] as const) {
      const view = new DataView(wavFile(samples, 44_100, bits));
      expect(view.getUint32(24, true)).toBe(44_100);
      expect(view.getUint32(40, true)).toBe((samples.length * bits) / 8);
      const full = 2 ** (bits - 1);
      const read = (i: number) =>
        bits === 16
          ? view.getInt16(44 + 2 * i, true)
          : view.getUint8(44 + 3 * i) | (view.getUint8(45 + 3 * i) << 8) | (view.getInt8(46 + 3 * i) << 16);
      [...samples].forEach((sample, i) => {
        const clipped = Math.max(-1, Math.min((full - 1) / full, sample));
        expect(Math.abs(read(i) / full - clipped)).toBeLessThanOrEqual(0.5 / full + 1e-9);
      });
    }
  });

  it("takes 24 bits where they fit, else 16", () => {
    expect(bitsFor(RATE * 60, 100e6)).toBe(24);
    expect(bitsFor(RATE * 60 * 14, 100e6)).toBe(16);
  });

  it("is searched for holes of exact silence, which no converter makes", () => {
    const sound = hiss(1e-4, 3);
    sound.fill(0, RATE, RATE + 256);
    const [hole, ...rest] = lostIn(sound, RATE);
    expect(rest).toEqual([]);
    expect(hole?.at_s).toBeCloseTo(1, 3);
    expect(hole?.seconds).toBeCloseTo(256 / RATE, 4);
    const gated = hiss(1e-4, 3);
    gated.fill(0, RATE, 2 * RATE);
    expect(lostIn(gated, RATE)).toEqual([]);
    expect(lostIn(new Float32Array(RATE), RATE)).toEqual([]);
    const edges = hiss(1e-4, 1);
    edges.fill(0, 0, 400);
    edges.fill(0, RATE - 400);
    expect(lostIn(edges, RATE)).toEqual([]);
  });
});

describe("the input check", () => {
  const watched = (sound: Float32Array) => {
    const watch = new InputWatch(RATE, 2048);
    let seen = watch.see(sound.subarray(0, 2048));
    for (let at = 2048; at + 2048 <= sound.length; at += 2048)
      seen = watch.see(sound.subarray(at, at + 2048));
    return seen;
  };

  it("reads levels of a full-scale sine as the standard has them", () => {
    // A full-scale sine: peak 0 dBFS, RMS −3.01 dB (a fact of the sine).
    const seen = watched(tone(997, 0.99, 2));
    expect(seen.peakDbfs).toBeCloseTo(toDb(0.99), 1);
    expect(seen.rmsDbfs).toBeCloseTo(toDb(0.99) - 3.01, 1);
    expect(toneDbfs(tone(1000, 0.1), RATE, 1000)).toBeCloseTo(-20, 1);
  });

  it("finds hum at 50 and 60 Hz, also by its third harmonic, and none in noise", () => {
    const mixed = (hz: number, amplitude: number) => {
      const hum = tone(hz, amplitude);
      return hiss(3e-4).map((v, i) => v + (hum[i] as number));
    };
    expect(humIn(mixed(50, 0.01), RATE)).toMatchObject({ hz: 50 });
    expect(humIn(mixed(60, 0.003), RATE)?.hz).toBe(60);
    expect(humIn(mixed(180, 0.01), RATE)?.hz).toBe(60);
    expect(humIn(hiss(0.01), RATE)).toBeNull();
    expect(humIn(tone(82.4, 0.3), RATE)).toBeNull();
  });

  it("sees clipping, dead inputs and the floor", () => {
    expect(watched(tone(440, 1.2, 2).map((v) => Math.max(-1, Math.min(1, v)))).clipped).toBe(true);
    expect(watched(tone(440, 0.9, 2)).clipped).toBe(false);
    expect(watched(new Float32Array(RATE * 2)).dead).toBe(true);
    expect(watched(hiss(1e-3, 4)).floorDbfs).toBeCloseTo(toDb(1e-3 / Math.sqrt(3)), 0);
  });

  it("says what stands in the way, and when nothing does", () => {
    const good = watched(hiss(1e-4, 4));
    const words = (
      seen: typeof good | null,
      processing: Parameters<typeof inputFindings>[1],
      loudest: number,
    ) => inputFindings(seen, processing, loudest).map((f) => `${f.level}: ${f.text}`);
    expect(words(good, [], -12)).toEqual(["good: Good to go."]);
    expect(words(good, [], -50)[0]).toContain("loudest note");
    expect(words(good, ["auto_gain_control"], -12)[0]).toContain("automatic gain");
    expect(words({ ...good, dead: true }, [], -120)[0]).toContain("Nothing comes in");
    expect(words({ ...good, clipped: true }, [], 0)[0]).toContain("Too loud");
    expect(words({ ...good, floorDbfs: -35 }, [], -12)[0]).toContain("noisy");
    expect(words(null, [], -120)).toEqual(["mind: Listening …"]);
  });
});
