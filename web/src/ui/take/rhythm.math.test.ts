import { describe, expect, it } from "vitest";
import type { Note, TakeMeasured } from "~/api/client";
import { asAsked, heardWords, rhythmFacts, rhythmFaults, timeWords } from "./rhythm.math";

const NOTE = {
  id: "e1",
  repeat: 0,
  status: "played",
  timing: { grid_s: 1, error_ms: 31.2, u: 3, limit_ms: 20, verdict: "outside" },
  level: {
    level_db: -6,
    deviation_db: -5.2,
    u: 0.4,
    dies: false,
    way: "picked",
    against: "string",
    verdict: "outside",
  },
  length: { length_ratio: 0.62, overlap_ms: null, u: 12, u_overlap_ms: null, verdict: "outside" },
  reasons: [],
} as unknown as Note;

describe("time and touch", () => {
  it("names what is outside, early and soft under the line, late and loud over it", () => {
    expect(rhythmFaults(NOTE)).toEqual([
      { text: "31 ms late", side: "over" },
      { text: "5.2 dB soft", side: "under" },
      { text: "38 % short", side: "under" },
    ]);
    expect(timeWords(-0.3)).toBe("on the beat");
  });

  it("says that a note dies, rings on, or lacks its accent instead of numbers nobody hears as such", () => {
    const dying = { ...NOTE, timing: null, level: { ...NOTE.level, dies: true } } as Note;
    expect(rhythmFaults(dying).map((f) => f.text)).toEqual(["dies too soon"]);
    const ringing = {
      ...NOTE,
      timing: null,
      level: { ...NOTE.level, way: "accented" },
      length: { ...NOTE.length, overlap_ms: 140 },
      reasons: ["rings_on"],
    } as Note;
    expect(rhythmFaults(ringing).map((f) => f.text)).toEqual(["accent missing", "rings on 140 ms"]);
  });

  it("hides what the drill does not ask for", () => {
    expect(rhythmFaults(asAsked(NOTE, ["pitch", "level"])).map((f) => f.text)).toEqual(["5.2 dB soft"]);
  });

  it("tells nothing of early and late where the grid is fitted", () => {
    const summary = {
      timing: {
        bias_ms: null,
        jitter_ms: 6.04,
        drift_ms_per_beat: 0.2,
        string_change_ms: 8.3,
        u_string_change_ms: 2,
      },
      level: null,
      length: null,
      fastest_even_run_nps: 8.03,
    } as unknown as TakeMeasured["analysis"]["summary"];
    expect(rhythmFacts(summary).map((f) => `${f.label}: ${f.value}`)).toEqual([
      "Unsteady: 6.0 ms",
      "Drift: +0.20 ms a beat",
      "At a change of string: +8.3 ± 2.0 ms",
      "Fastest even run: 8.0 notes a second",
    ]);
  });

  it("counts what was heard, and what nobody asked for", () => {
    const summary = { asked: 32, missed: 1 } as TakeMeasured["analysis"]["summary"];
    expect(heardWords(summary, [{ kind: "double_hit" }, { kind: "double_hit" }, { kind: "stutter" }])).toBe(
      "31 of 32 notes heard; 2 double hits; 1 stutter",
    );
    expect(heardWords({ ...summary, missed: 0 }, [])).toBeNull();
  });
});
