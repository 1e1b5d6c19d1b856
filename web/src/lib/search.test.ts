import { describe, expect, it } from "vitest";
import { holdsWords } from "./search";

describe("finding as one types", () => {
  it("wants every word, in any order and any case", () => {
    expect(holdsWords("Sweep in A, picking", "  PICK sweep ")).toBe(true);
    expect(holdsWords("Sweep in A, picking", "sweep bend")).toBe(false);
    expect(holdsWords("Anything", " ")).toBe(true);
  });
});
