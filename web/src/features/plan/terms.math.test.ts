import { describe, expect, it } from "vitest";
import { recordAddress } from "~/lib/recordAddress";
import { fieldsFor, fieldsOf, stepOf, termsOf } from "./terms.math";

describe("terms of an assignment", () => {
  it("begin with the house's rule, ten takes where one overlearns", () => {
    const rule = termsOf(fieldsFor(66)).rule;
    expect(rule).toMatchObject({ clean_takes: 3, clean_share: 0.95, down_takes: 2, down_share: 0.8 });
    expect(termsOf(fieldsFor(66, "overlearn")).rule?.clean_takes).toBe(10);
  });
  it("have a goal only where one is given", () => {
    expect(termsOf(fieldsFor(66)).goal).toBeNull();
    expect(termsOf({ ...fieldsFor(66), goalBpm: "96" }).goal).toEqual({ bpm: 96, per_click: null });
    expect(termsOf({ ...fieldsFor(60), goalPerClick: "4" }).goal).toEqual({ bpm: 60, per_click: 4 });
  });
  it("read numbers with a comma, and nothing out of nonsense", () => {
    expect(termsOf({ ...fieldsFor(66), minutes: "2,5" }).minutes).toBe(2.5);
    expect(() => termsOf({ ...fieldsFor(66), minutes: "some" })).toThrow("A day: “some” is no number.");
    expect(stepOf("", "2")).toBeNull();
  });
  it("keep a rule of one's own as it is", () => {
    const rule = {
      speed: "notes_per_click",
      clean_takes: 4,
      clean_share: 0.9,
      down_takes: 3,
      down_share: 0.7,
      tempo_step_bpm: 6,
      subdivisions: [1, 2, 4],
      ceiling_share: 0.8,
    } as const;
    const assignment = {
      minutes: 3,
      days: 5,
      ends: null,
      note: "",
      rule,
      goal: null,
      step: { bpm: 60, per_click: 2 },
      moves: "automatic",
      pair_id: 4,
      sharing: "equal",
    } as unknown as Parameters<typeof fieldsOf>[0];
    const terms = termsOf(fieldsOf(assignment));
    expect(terms.rule).toEqual(rule);
    expect(terms).toMatchObject({ moves: "automatic", pair_id: 4, sharing: "equal" });
  });
  it("lead to the recorder at their step", () => {
    expect(recordAddress(7, 3, { bpm: 84, per_click: null })).toBe("/record/7?student=3&bpm=84");
    expect(recordAddress(7, 3, { bpm: 60, per_click: 2 })).toBe("/record/7?student=3&bpm=60&per_click=2");
  });
});
