import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import { CLEAN } from "~/lib/useDrillSound";
import { canShow, centsSaid, dbSaid, isClean, msSaid, ringSaid, unevenSaid } from "./listen.math";

describe("faults on sliders", () => {
  it("are at rest in a clean take", () => {
    expect(isClean(CLEAN)).toBe(true);
    expect(isClean({ ...CLEAN, ring_db: -10 })).toBe(true);
    expect(isClean({ ...CLEAN, ring_string: 5 })).toBe(false);
    expect(isClean({ ...CLEAN, late_ms: -5 })).toBe(false);
  });

  it("are said in the trade's words", () => {
    expect([centsSaid(-18), centsSaid(0), centsSaid(7)]).toEqual([
      "18 cents flat",
      "in tune",
      "7 cents sharp",
    ]);
    expect([msSaid(-20), msSaid(0), msSaid(35)]).toEqual(["20 ms early", "on the click", "35 ms late"]);
    expect([dbSaid(0), dbSaid(-6), dbSaid(2)]).toEqual(["as loud as picked", "−6 dB", "+2 dB"]);
    expect([unevenSaid(0), unevenSaid(0.35)]).toEqual(["even", "uneven by 35 %"]);
    expect(ringSaid(-22)).toBe("22 dB under the note");
  });

  it("are offered where the drill has room for them", () => {
    const content = {
      events: [{ articulation: "pull", bend: null, vibrato: null }],
    } as unknown as DrillContent;
    expect(canShow(content)).toEqual({ bends: false, vibrato: false, slurs: true });
  });
});
