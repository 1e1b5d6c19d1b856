import { describe, expect, it } from "vitest";
import type { DrillContent, DrillRead } from "~/api/client";
import { ANY_DRILL, askedWords, foundDrills, isScore, levelWords, schoolWords, tagsOf } from "./drill.math";

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
});

describe("searching the library", () => {
  const drills = [
    {
      title: "Full bend at fret 7",
      family: "fretted_then_bend",
      strings: [3],
      level: 1,
      tags: ["bends"],
      archived: false,
    },
    {
      title: "Legato in 3s",
      family: "legato_cycle",
      strings: [2, 3],
      level: 2,
      tags: ["recital", "slurs"],
      archived: false,
    },
    {
      title: "Sweep, 5 strings, round",
      family: "sweep",
      strings: [1, 2, 3, 4, 5],
      level: null,
      tags: [],
      archived: true,
    },
  ] as DrillRead[];
  const titles = (search: object) => foundDrills(drills, { ...ANY_DRILL, ...search }).map((d) => d.family);

  it.each([
    [{}, ["fretted_then_bend", "legato_cycle"]],
    [{ text: "BEND full" }, ["fretted_then_bend"]],
    [{ text: "legato waltz" }, []],
    [{ string: "2" }, ["legato_cycle"]],
    [{ string: "3" }, ["fretted_then_bend", "legato_cycle"]],
    [{ string: "5" }, []],
    [{ family: "legato_cycle" }, ["legato_cycle"]],
    [{ level: "1" }, ["fretted_then_bend"]],
    [{ tag: "recital" }, ["legato_cycle"]],
    [{ text: "recital" }, ["legato_cycle"]],
    [{ archived: true }, ["sweep"]],
  ])("finds for %o", (search, families) => {
    expect(titles(search)).toEqual(families);
  });

  it("lists every tag once, and levels in words", () => {
    expect(tagsOf(drills)).toEqual(["bends", "recital", "slurs"]);
    expect(levelWords(2)).toBe("moving on");
    expect(levelWords(null)).toBe("");
  });
});

describe("schools and files", () => {
  it("says how speed is gained, and light slurs", () => {
    expect(
      schoolWords({ speed: "overlearn", slur_force: "strong", vibrato_return: "bottom", damping: "both" }),
    ).toBe("Speed: stay until it is effortless.");
    const light = { speed: "tempo_steps", slur_force: "light", vibrato_return: "top" } as const;
    expect(schoolWords({ ...light, damping: "fretting_hand" })).toBe(
      "Speed: tempo up in small steps; slurs light and even; strings kept quiet by the fretting hand first.",
    );
  });

  it.each([
    ["riff.musicxml", true],
    ["RIFF.MID", true],
    ["riff.mxl", true],
    ["riff.json", false],
    ["midi.json", false],
  ])("knows a score by its name: %s", (name, is) => {
    expect(isScore(name)).toBe(is);
  });
});
