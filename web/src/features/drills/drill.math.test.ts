import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import { askedWords, notJudgedWords } from "./drill.math";

const drill = (changes: object) =>
  ({
    tempo: { bpm: 66 },
    repeats: 4,
    measures: ["pitch", "bend"],
    profile: "steady",
    ...changes,
  }) as DrillContent;

describe("what a drill asks", () => {
  it.each([
    [{}, "4 times at 66 bpm, judged for pitch, bend; tolerances “steady”."],
    [{ tempo: null, repeats: 1 }, "Once in free time, judged for pitch, bend; tolerances “steady”."],
  ])("is said in one sentence", (changes, text) => {
    expect(askedWords(drill(changes))).toBe(text);
  });

  it("names what is not judged yet, and is silent otherwise", () => {
    expect(notJudgedWords(["timing", "level"])).toContain("timing, level");
    expect(notJudgedWords([])).toBe("");
  });
});
