import { describe, expect, it } from "vitest";
import type { Difference } from "~/api/client";
import {
  type Comparison,
  changedWords,
  changeWords,
  differenceWords,
  gainWords,
  valueWords,
} from "./compare.math";

const found = (part: Partial<Difference>): Difference => ({
  code: "bend_error",
  unit: "cents",
  before: -30,
  after: -4,
  difference: 26,
  u: 2,
  clear: true,
  better: true,
  ...part,
});

describe("differences in words", () => {
  it("says what a difference comes to, never more than it is sure of", () => {
    expect(differenceWords(found({}))).toBe("better");
    expect(differenceWords(found({ better: false }))).toBe("worse");
    expect(differenceWords(found({ better: null }))).toBe("other");
    expect(differenceWords(found({ clear: false, better: null }))).toBe("within the uncertainty");
    expect(differenceWords(found({ u: null, clear: false, better: null }))).toBe("");
    expect(differenceWords(found({ difference: null }))).toBe("–");
  });

  it("writes values and changes with their units", () => {
    expect(valueWords(found({}), -30)).toBe("−30.0 cents");
    expect(valueWords(found({ code: "bend_error_spread" }), 5.25)).toBe("5.3 cents");
    expect(valueWords(found({ code: "clean_rate", unit: "%" }), 93.8)).toBe("94 %");
    expect(valueWords(found({}), null)).toBe("–");
    expect(changeWords(found({}))).toBe("+26.0 ± 2.0");
    expect(changeWords(found({ u: null }))).toBe("+26.0");
  });

  it.each([
    [3, 1, "3 notes became clean, 1 note is clean no more."],
    [0, 2, "2 notes are clean no more."],
    [1, 0, "1 note became clean."],
    [0, 0, "Every note is judged as before."],
  ])("counts %i gained and %i lost", (gained, lost, words) => {
    expect(gainWords({ gained, lost } as Comparison)).toBe(words);
  });

  it("say in a sentence what changed for sure, and what did not", () => {
    const of = (...overall: Difference[]) =>
      changedWords({ overall, gained: 0, lost: 0 } as unknown as Comparison);
    expect(of(found({}), found({ code: "ring", unit: "dB", better: false, before: -30, after: -20 }))).toBe(
      "Better: bend error (−30.0 cents to −4.0 cents). Worse: loudest ring (−30.0 dB to −20.0 dB).",
    );
    expect(of(found({ clear: false, better: null }), found({ better: null }))).toBe(
      "No value differs by more than its uncertainty and a fifth of its tolerance.",
    );
    expect(changedWords({ overall: [], gained: 1, lost: 0 } as unknown as Comparison)).toBe(
      "As a whole no value differs for sure.",
    );
  });

  it("does not speak of what is only tried as if it were so", () => {
    expect(gainWords({ gained: 3, lost: 1 } as Comparison, true)).toBe(
      "3 notes would become clean, 1 note would be clean no more.",
    );
  });
});
