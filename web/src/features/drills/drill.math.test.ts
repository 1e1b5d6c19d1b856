import { describe, expect, it } from "vitest";
import type { DrillContent, DrillRead } from "~/api/client";
import { askedWords, foundDrills, notJudgedWords } from "./drill.math";

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

describe("searching the library", () => {
  const drills = [
    { title: "String 3: full bend at fret 7", family: "fretted_then_bend", archived: false },
    { title: "Legato in 3s: strings 3 and 2, position 5", family: "legato_cycle", archived: false },
    { title: "Sweep, 5 strings, round", family: "sweep", archived: true },
  ] as DrillRead[];
  const titles = (search: object) =>
    foundDrills(drills, { text: "", string: "", archived: false, ...search }).map((d) => d.family);

  it.each([
    [{}, ["fretted_then_bend", "legato_cycle"]],
    [{ text: "BEND full" }, ["fretted_then_bend"]],
    [{ text: "legato waltz" }, []],
    [{ string: "2" }, ["legato_cycle"]],
    [{ string: "3" }, ["fretted_then_bend", "legato_cycle"]],
    [{ archived: true }, ["sweep"]],
  ])("finds for %o", (search, families) => {
    expect(titles(search)).toEqual(families);
  });
});
