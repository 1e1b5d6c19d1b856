import { describe, expect, it } from "vitest";
import type { GeneratorRead } from "~/api/client";
import { drill } from "~/testing/made";
import { ANY_DRILL, foundDrills, PLAIN_NEED, searches } from "./drill.math";
import { byGroup, formsFor, groupOf, groupWords, liesIn, like, minutesWords } from "./library.math";
import { NO_SET, variedOf } from "./SetFields";

describe("groups", () => {
  it("are what a drill trains first, with what nobody tagged at the end", () => {
    const drills = [
      drill({ id: 1, tags: ["licks", "bends"], family: "free" }),
      drill({ id: 2, tags: ["picking", "right hand"], family: "sweep" }),
      drill({ id: 3, tags: ["bends"] }),
      drill({ id: 4, tags: ["recital"] }),
      drill({ id: 5, tags: ["guitar"], family: "set_up" }),
      drill({ id: 6, tags: ["picking"], family: "alternate_picking" }),
    ];
    expect(byGroup(drills).map(([group, families]) => [group, families.map(([f]) => f)])).toEqual([
      ["bends", ["fretted_then_bend"]],
      ["picking", ["sweep", "alternate_picking"]],
      ["licks", ["free"]],
      ["other", ["fretted_then_bend"]],
      ["guitar", ["set_up"]],
    ]);
    expect(groupOf(drill({ tags: [] }))).toBe("other");
    expect(groupWords("other")).toBe("Your own");
    expect(groupWords("bends")).toBe("Bends");
  });
});

describe("a drill is found", () => {
  it.each([
    [[1, 7], ["low"]],
    [
      [5, 7],
      ["low", "middle"],
    ],
    [[5, 8], ["middle"]],
    [[4, 12], ["high"]],
    [
      [5, 12],
      ["middle", "high"],
    ],
    [[12, 15], ["high"]],
    [[4, 11], []],
  ])("by its frets %j", (frets, where) => {
    const one = drill({ frets });
    expect(["low", "middle", "high"].filter((w) => liesIn(one, w))).toEqual(where);
  });

  it("by what it needs and the minutes it takes", () => {
    const drills = [
      drill({ id: 1, needs: [], minutes: 0.9 }),
      drill({ id: 2, needs: ["needs a slide"], minutes: 2 }),
      drill({ id: 3, needs: ["with drive"], minutes: 2.01 }),
    ];
    const ids = (part: object) => foundDrills(drills, { ...ANY_DRILL, ...part }).map((d) => d.id);
    expect(ids({ need: PLAIN_NEED })).toEqual([1]);
    expect(ids({ need: "with drive" })).toEqual([3]);
    expect(ids({ minutes: "2" })).toEqual([1, 2]);
    expect(ids({ group: "bends" })).toEqual([]);
    expect(searches(ANY_DRILL)).toBe(false);
    expect(searches({ ...ANY_DRILL, neck: "low" })).toBe(true);
  });

  it("by likeness: the same form, other strings first, none that is put away", () => {
    const model = drill({ id: 1, form: "sweep", strings: [1, 2] });
    const others = [
      model,
      drill({ id: 2, form: "sweep", strings: [1, 2] }),
      drill({ id: 3, form: "sweep", strings: [3] }),
      drill({ id: 4, form: "curl" }),
      drill({ id: 5, form: "sweep", archived: true }),
    ];
    expect(like(others, model).map((d) => d.id)).toEqual([3, 2]);
    const written = drill({ id: 6, form: "", family: "free" });
    expect(like([written, drill({ id: 7, form: "lick", family: "free" })], written).map((d) => d.id)).toEqual(
      [7],
    );
  });

  it("by the fault it is given for", () => {
    const form = (name: string, helps: string[]) => ({ name, helps }) as GeneratorRead;
    expect(formsFor([form("a", ["bend_flat"]), form("b", [])], "bend_flat")).toEqual(["a"]);
  });
});

describe("minutes", () => {
  it.each([
    [0.02, "5 s"],
    [0.5, "30 s"],
    [0.96, "60 s"],
    [1, "1.0 min"],
    [2.34, "2.3 min"],
  ])("%d are %s", (minutes, words) => expect(minutesWords(minutes)).toBe(words));
});

describe("a set", () => {
  it("goes through the second field first", () => {
    expect(variedOf(NO_SET)).toEqual([]);
    const fields = { ...NO_SET, "set-field": "position", "set-values": "5-8", "set-field-2": "string" };
    expect(variedOf(fields)).toEqual([
      { field: "string", values: "1-4" },
      { field: "position", values: "5-8" },
    ]);
  });
});
