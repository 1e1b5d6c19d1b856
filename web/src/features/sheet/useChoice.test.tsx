import { act, renderHook } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { heardNotes, type NotePart } from "~/testing/notes";
import { useChoice } from "./useChoice";

const BEND = { bend: {} } as unknown as NotePart;
const VIBRATO = { vibrato: {} } as unknown as NotePart;

function choosing(parts: Record<string, NotePart> = {}) {
  const notes = heardNotes(parts);
  const { result } = renderHook(() => useChoice(notes));
  return {
    selected: () => result.current.selected?.key,
    chosen: () => result.current.chosen.map((n) => n.key),
    do: (what: (choice: typeof result.current) => void) => act(() => what(result.current)),
    select: () => result.current.select,
  };
}

describe("where a sheet begins", () => {
  it.each([
    [
      "the bend that is off",
      { "n1@0": { clean: "outside" }, "n2@0": BEND, "n3@0": { ...BEND, clean: "outside" } },
      "n3@0",
    ],
    [
      "the vibrato that is off",
      { "n1@0": { clean: "outside" }, "n2@1": { ...VIBRATO, clean: "outside" } },
      "n2@1",
    ],
    ["what is off, before a clean bend", { "n1@0": BEND, "n2@0": { clean: "outside" } }, "n2@0"],
    ["the first bend of a clean take", { "n1@0": { clean: "unclear" }, "n2@0": BEND }, "n2@0"],
    ["the first vibrato of a clean take", { "n3@0": VIBRATO }, "n3@0"],
    ["the first note", {}, "n0@0"],
  ] as [string, Record<string, NotePart>, string][])("is %s", (_, parts, key) => {
    expect(choosing(parts).selected()).toBe(key);
  });

  it("is nowhere in a take without notes", () => {
    const { result } = renderHook(() => useChoice([]));
    expect(result.current.selected).toBeNull();
    expect(result.current.chosen).toEqual([]);
  });
});

describe("choosing notes", () => {
  it("goes on and back, and stops at both ends", () => {
    const choice = choosing();
    choice.do((c) => c.go(-1, false));
    expect(choice.selected()).toBe("n0@0");
    choice.do((c) => c.go(1, false));
    expect(choice.selected()).toBe("n1@0");
    choice.do((c) => c.select("n3@2"));
    choice.do((c) => c.go(1, false));
    expect(choice.selected()).toBe("n3@2");
    choice.do((c) => c.go(-1, false));
    expect(choice.selected()).toBe("n2@2");
  });

  it("extends a range from where it began, and ends it with the next plain step", () => {
    const choice = choosing();
    choice.do((c) => c.select("n1@0"));
    choice.do((c) => c.go(1, true));
    choice.do((c) => c.go(1, true));
    expect(choice.chosen()).toEqual(["n1@0", "n2@0", "n3@0"]);
    choice.do((c) => c.select("n0@0", true));
    expect(choice.chosen()).toEqual(["n0@0", "n1@0"]);
    choice.do((c) => c.single());
    expect(choice.chosen()).toEqual(["n0@0"]);
    choice.do((c) => c.go(1, true));
    choice.do((c) => c.go(1, false));
    expect(choice.chosen()).toEqual(["n2@0"]);
  });

  it("goes to the same note of another repeat, where there is one", () => {
    const choice = choosing();
    choice.do((c) => c.select("n2@0"));
    choice.do((c) => c.repeat(-1));
    expect(choice.selected()).toBe("n2@0");
    choice.do((c) => c.repeat(1));
    expect(choice.selected()).toBe("n2@1");
  });

  it("takes a whole repeat, and extends it from its first note", () => {
    const choice = choosing();
    choice.do((c) => c.select("n2@1"));
    choice.do((c) => c.wholeRepeat());
    expect(choice.chosen()).toEqual(["n0@1", "n1@1", "n2@1", "n3@1"]);
    choice.do((c) => c.go(1, true));
    expect(choice.chosen()).toEqual(["n0@1", "n1@1", "n2@1", "n3@1", "n0@2"]);
  });

  it("goes to what wants a look in either direction", () => {
    const choice = choosing({ "n1@1": { clean: "outside" }, "n3@2": { clean: "unclear" } });
    expect(choice.selected()).toBe("n1@1");
    choice.do((c) => c.fault(1));
    expect(choice.selected()).toBe("n3@2");
    choice.do((c) => c.fault(1));
    expect(choice.selected()).toBe("n1@1");
    choice.do((c) => c.fault(-1));
    expect(choice.selected()).toBe("n3@2");
  });

  it("hands out one function to choose with, whatever is chosen", () => {
    const choice = choosing();
    const first = choice.select();
    choice.do((c) => c.go(1, false));
    expect(choice.select()).toBe(first);
  });
});
