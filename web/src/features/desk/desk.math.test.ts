import { describe, expect, it } from "vitest";
import type { DeskRow } from "~/api/client";
import { deskWords, isClean, restWords } from "./desk.math";

const row = (part: Partial<DeskRow>): DeskRow =>
  ({
    state: "measured",
    judged_at: null,
    asked: 16,
    clean: 16,
    excluded: 0,
    extra: 0,
    unclear: 0,
    missed: 0,
    ...part,
  }) as DeskRow;

describe("the Desk", () => {
  it("says how much waits", () => {
    expect(deskWords({ waiting: 1, judged: 0, unfinished: 0, refused: 0 })).toBe("1 take waits");
    expect(deskWords({ waiting: 4, judged: 2, unfinished: 1, refused: 1 })).toBe(
      "4 takes wait, 1 being measured, 1 that could not be measured, 2 judged",
    );
  });

  it("picks only what is clean all through and not judged yet", () => {
    expect(isClean(row({}))).toBe(true);
    expect(isClean(row({ clean: 14, excluded: 2 }))).toBe(true);
    expect(isClean(row({ clean: 15 }))).toBe(false);
    expect(isClean(row({ extra: 1 }))).toBe(false);
    expect(isClean(row({ judged_at: "2026-11-20T10:00:00Z" }))).toBe(false);
    expect(isClean(row({ asked: 0, clean: 0 }))).toBe(false);
    expect(isClean(row({ state: "refused" }))).toBe(false);
  });

  it("names what is neither clean nor not", () => {
    expect(restWords(row({}))).toBe("");
    expect(restWords(row({ unclear: 2, missed: 1, excluded: 3 }))).toBe(
      "2 cannot tell, 1 missed, 3 not counted",
    );
  });
});
