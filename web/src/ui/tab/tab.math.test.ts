import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import { layoutTab, STRING_GAP, TOP, writtenLength } from "./tab.math";

const note = (string: number, fret: number | null, muted = false) => ({ string, fret, muted });

function drill(events: object[]): DrillContent {
  const base = {
    beat: 0,
    length: 1,
    articulation: "pick",
    notes: [],
    bend: null,
    accent: false,
    let_ring: false,
    voice: 1,
  };
  return {
    tuning: ["E4", "B3", "G3", "D3", "A2", "E2"],
    events: events.map((event, i) => ({ ...base, id: `e${i}`, ...event })),
  } as unknown as DrillContent;
}

const layout = (events: object[], repeats = 1) => layoutTab(drill(events), 4, repeats, (beat) => 100 * beat);

describe("tab layout", () => {
  it("has one line a string, the highest on top", () => {
    const { strings } = layout([]);
    expect(strings.map((s) => s.name)).toEqual(["E", "B", "G", "D", "A", "E"]);
    expect(strings.map((s) => s.y)).toEqual([0, 1, 2, 3, 4, 5].map((i) => TOP + i * STRING_GAP));
  });

  it("puts every note on its string and beat in every repeat", () => {
    const { numbers } = layout([{ notes: [note(3, 7)] }, { beat: 2, notes: [note(1, 12), note(2, 13)] }], 2);
    expect(numbers.map((n) => [n.eventId, n.repeat, n.x, n.text])).toEqual([
      ["e0", 0, 0, "7"],
      ["e1", 0, 200, "12"],
      ["e1", 0, 200, "13"],
      ["e0", 1, 400, "7"],
      ["e1", 1, 600, "12"],
      ["e1", 1, 600, "13"],
    ]);
    expect(numbers[0]?.y).toBe(TOP + 2 * STRING_GAP);
    expect(new Set(numbers.map((n) => n.key)).size).toBe(numbers.length);
  });

  it("draws bends with their size, and a bend struck again as held", () => {
    const bend = { kind: "bend", target_cents: 200, reference: null };
    const { bends, numbers } = layout([
      { notes: [note(2, 8)], bend },
      { beat: 2, length: 2, articulation: "repluck", notes: [note(2, 8)], bend },
    ]);
    expect(bends.map((b) => [b.label, b.shape])).toEqual([
      ["full", "up"],
      ["held", "held"],
    ]);
    expect(bends[1]?.untilX).toBeLessThan(400);
    expect(numbers.map((n) => n.text)).toEqual(["8", "(8)"]);
  });

  it.each([
    [4, 0, false, 0, 0],
    [2, 0, false, 0, 7],
    [1.5, 0, true, 0, 14],
    [0.5, 1, false, 0, 14],
    [1 / 3, 1, false, 3, 14],
    [1 / 6, 2, false, 3, 14],
    [1 / 5, 2, false, 5, 14],
    [1 / 7, 2, false, 7, 14],
    [0.25, 2, false, 0, 14],
  ])("writes %s beats with %s flags", (beats, flags, dotted, tuplet, stem) => {
    expect(writtenLength(beats)).toEqual({ flags, dotted, tuplet, stem });
  });

  it("beams within a beat, flags what stands alone, and brackets a triplet", () => {
    const eighths = layout([
      { length: 0.5, notes: [note(3, 5)] },
      { beat: 0.5, length: 0.5, notes: [note(3, 7)] },
      { beat: 1, length: 0.5, notes: [note(3, 5)] },
    ]);
    expect(eighths.beams.map((b) => [b.fromX, b.toX])).toEqual([
      [0, 50],
      [100, 106],
    ]);
    const triplet = layout([0, 1, 2].map((i) => ({ beat: i / 3, length: 1 / 3, notes: [note(3, 5 + i)] })));
    expect(triplet.brackets.map((b) => b.label)).toEqual(["3"]);
    expect(triplet.beams).toHaveLength(2);
  });

  it("shows accents and vibrato over their notes", () => {
    const { accents, waves } = layout([
      { accent: true, notes: [note(3, 5)] },
      { beat: 1, length: 3, notes: [note(3, 7)], vibrato: { return: "bottom" } },
    ]);
    expect(accents.map((a) => a.x)).toEqual([0]);
    expect(waves.map((w) => [w.fromX, w.toX])).toEqual([[100, 386]]);
  });

  it("marks rests, muted strings and slurs", () => {
    const { rests, numbers, slurs } = layout([
      { notes: [note(3, 5)] },
      { beat: 1, articulation: "hammer", notes: [note(3, 7)] },
      { beat: 2, articulation: "none" },
      { beat: 3, notes: [note(5, null, true)] },
    ]);
    expect(rests).toHaveLength(1);
    expect(numbers.at(-1)?.text).toBe("×");
    expect(slurs.map((s) => [s.label, s.fromX, s.toX])).toEqual([["H", 0, 100]]);
  });
});
