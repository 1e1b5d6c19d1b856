import { describe, expect, it } from "vitest";
import { calibrationSeconds, latencyOf, probe, probeTimes } from "./latency.math";

const RATE = 48_000;
const SLOW_MS = 30_000;

/** A number that looks random, the same every time. */
function noise(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 1664525 + 1013904223) % 2 ** 32;
    return state / 2 ** 31 - 1;
  };
}

/** What comes back of the probes after a delay: louder or softer, in noise, with echoes (ms later, dB). */
function heardAfter(
  delayMs: number,
  { levelDb = -20, noiseDb = -60, echoes = [] as [number, number][], rate = RATE, from = 0 } = {},
): Float32Array {
  const heard = new Float32Array(Math.round(calibrationSeconds() * rate));
  const random = noise(7);
  for (let i = 0; i < heard.length; i += 1) heard[i] = random() * 10 ** (noiseDb / 20);
  const sent = probe(rate);
  const put = (seconds: number, gain: number) => {
    // Fractional places by a windowed sinc, so that the truth is not on the samples.
    const at = seconds * rate;
    const whole = Math.floor(at);
    const part = at - whole;
    const taps = Float64Array.from({ length: 16 }, (_, tap) => {
      const x = tap - 8 + part;
      const sinc = Math.abs(x) < 1e-9 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
      return sinc * (0.5 + 0.5 * Math.cos((Math.PI * x) / 8.5));
    });
    for (let i = 0; i < sent.length + 16; i += 1) {
      let value = 0;
      for (let tap = 0; tap < 16; tap += 1) value += (taps[tap] as number) * (sent[i - tap] ?? 0);
      const place = whole + i - 8;
      if (place >= 0 && place < heard.length) heard[place] = (heard[place] as number) + gain * value;
    }
  };
  probeTimes()
    .slice(from)
    .forEach((at) => {
      put(at + delayMs / 1000, 10 ** (levelDb / 20));
      for (const [later, db] of echoes) put(at + (delayMs + later) / 1000, 10 ** ((levelDb + db) / 20));
    });
  return heard;
}

describe("round-trip latency", () => {
  it.each([0, 11.83, 499.9])("of %s ms comes back within a tenth", (ms) => {
    const found = latencyOf(heardAfter(ms), RATE, probeTimes());
    expect(found?.found).toBe(8);
    expect(Math.abs((found?.ms ?? 0) - ms)).toBeLessThan(0.1);
  });

  it.each([
    ["noise 20 dB under the probe", { levelDb: -30, noiseDb: -40 }],
    ["noise as loud as the probe", { levelDb: -30, noiseDb: -30 }],
    ["an echo after 12 ms", { echoes: [[12, -3]] as [number, number][] }],
    ["a louder echo after 8 ms", { echoes: [[8, 2]] as [number, number][] }],
    [
      "a room",
      {
        noiseDb: -50,
        echoes: [
          [4.3, -6],
          [9.1, -8],
          [17.7, -10],
          [31, -12],
        ] as [number, number][],
      },
    ],
    ["44.1 kHz", { rate: 44_100 }],
  ] as [string, Parameters<typeof heardAfter>[1]][])(
    "comes back within 1 ms in %s",
    (_, how) => {
      for (const ms of [5.2, 161.9]) {
        const found = latencyOf(heardAfter(ms, how), how?.rate ?? RATE, probeTimes());
        expect(Math.abs((found?.ms ?? 999) - ms)).toBeLessThan(1);
      }
    },
    SLOW_MS,
  );

  it("is not guessed where nothing comes back, or too little", () => {
    expect(latencyOf(heardAfter(20, { levelDb: -120 }), RATE, probeTimes())).toBeNull();
    expect(latencyOf(new Float32Array(RATE * 8), RATE, probeTimes())).toBeNull();
    expect(latencyOf(heardAfter(20, { from: 5 }), RATE, probeTimes())).toBeNull();
  });

  it("is not said where the readings disagree", () => {
    const one = heardAfter(20);
    const other = heardAfter(60);
    const half = Math.round((probeTimes()[4] ?? 0) * RATE) - 100;
    one.set(other.subarray(half), half);
    expect(latencyOf(one, RATE, probeTimes())).toBeNull();
  });
});
