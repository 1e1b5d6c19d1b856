import { describe, expect, it } from "vitest";
import type { Curves, Note } from "~/api/client";
import { makeAxis } from "./axis.math";
import { contourPath, outlinePath, pitchCents, squeeze, targetHz, yOfCents } from "./tune.math";

function curves(pitch: (number | null)[]): Curves {
  return {
    hop_s: 0.005,
    confidence: [],
    pitch_cents: pitch,
    level_dbfs: pitch.map(() => -20),
    outline_step_s: 0.01,
    outline_low: [-0.5, -0.1, 0],
    outline_high: [0.5, 0.2, 0],
  };
}

describe("squeeze", () => {
  it("is linear to 50 cents, then compressed, and symmetrical", () => {
    expect(squeeze(25)).toBeCloseTo(squeeze(50) / 2, 9);
    expect(squeeze(100) - squeeze(50)).toBeLessThan(squeeze(50));
    for (const cents of [3, 50, 51, 200, 900]) expect(squeeze(-cents)).toBeCloseTo(-squeeze(cents), 9);
  });

  it("never leaves the strip and never turns round", () => {
    let last = -2;
    for (let cents = -1000; cents <= 1000; cents += 5) {
      const place = squeeze(cents);
      expect(Math.abs(place)).toBeLessThanOrEqual(1);
      expect(place).toBeGreaterThanOrEqual(last);
      last = place;
    }
  });

  it("puts sharp above flat", () => {
    expect(yOfCents(20, 200)).toBeLessThan(yOfCents(0, 200));
    expect(yOfCents(0, 200)).toBe(100);
    expect(yOfCents(-20, 200)).toBeGreaterThan(100);
  });
});

describe("contourPath", () => {
  const x = (s: number) => s * 1000;
  const y = (c: number) => c;

  it("is relative to the target", () => {
    expect(pitchCents(440)).toBe(6900);
    expect(contourPath(curves([6900, 6910, 6890]), 0, 1, 440, x, y, 1000)).toBe(
      "M0.0 0.0L5.0 10.0L10.0 -10.0",
    );
  });

  it("breaks where there is no pitch", () => {
    const path = contourPath(curves([6900, 6900, null, null, 6905, 6905]), 0, 1, 440, x, y, 1000);
    expect(path.match(/M/g)).toHaveLength(2);
    expect(path).not.toContain("NaN");
  });

  it("keeps to its span and skips what no pixel can show", () => {
    const long = curves(Array.from({ length: 2000 }, () => 6900));
    expect(contourPath(long, 0.02, 0.03, 440, x, y, 1000).match(/[ML]/g)).toHaveLength(3);
    expect(contourPath(long, 0, 10, 440, x, y, 20).match(/[ML]/g)?.length).toBeLessThan(310);
  });

  it("is empty for a span without a pitch", () => {
    expect(contourPath(curves([null, null]), 0, 1, 440, x, y, 1000)).toBe("");
  });
});

describe("outlinePath", () => {
  it("is closed and scaled to the loudest sample", () => {
    const path = outlinePath(curves([]), makeAxis(0.03, 100, { bpm: null, first_beat_s: null }), 40);
    expect(path.startsWith("M12.0 0.0")).toBe(true);
    expect(path.endsWith("Z")).toBe(true);
    expect(path).toContain("12.0 40.0");
  });

  it("does not divide by silence", () => {
    const silent = { ...curves([]), outline_low: [0, 0], outline_high: [0, 0] };
    expect(outlinePath(silent, makeAxis(0.02, 100, { bpm: null, first_beat_s: null }), 40)).not.toContain(
      "NaN",
    );
  });
});

describe("targetHz", () => {
  const plain = {
    bend: null,
    pitch: { median_hz: 441, error_cents: 3.93, u: 0.2, verdict: "inside" },
  } as Note;

  it("is the asked pitch of a plain note and the reference of a bend", () => {
    expect(targetHz(plain)).toBeCloseTo(440, 1);
    expect(targetHz({ ...plain, bend: { reference_hz: 523.25 } } as Note)).toBe(523.25);
  });

  it("is null where nothing was measured", () => {
    expect(targetHz({ bend: null, pitch: null } as Note)).toBeNull();
  });
});
