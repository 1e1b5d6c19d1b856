import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import { LEFT_PX, layoutSheet, lengthBeatsOf, placeOf, pointAt } from "./systems.math";
import { STRING_GAP, TOP } from "./tab.math";

function drill(count: number, length: number): DrillContent {
  return {
    tuning: ["E4", "B3", "G3", "D3", "A2", "E2"],
    tempo: { bpm: 60, beats_per_bar: 4, count_in_beats: 4, swing: 0.5 },
    events: Array.from({ length: count }, (_, i) => ({
      id: `e${i}`,
      beat: i * length,
      length,
      articulation: i % 4 === 1 ? "hammer" : "pick",
      notes: [{ string: 1 + (i % 6), fret: i % 12, muted: false }],
      bend: i % 7 === 0 ? { kind: "bend", target_cents: 200, reference: null } : null,
      vibrato: i % 5 === 0 ? { return: "bottom" } : null,
      accent: i % 3 === 0,
      let_ring: false,
      voice: 1,
    })),
  } as unknown as DrillContent;
}

describe("lines of bars", () => {
  it("hold whole bars that fit, numbered on", () => {
    const sheet = layoutSheet(drill(24, 1), 24, 900);
    expect(sheet.systems.map((s) => [s.fromBeat, s.toBeat])).toEqual([
      [0, 8],
      [8, 16],
      [16, 24],
    ]);
    expect(sheet.systems[1]?.lines.map((l) => l.label)).toEqual(["3", "4", ""]);
    expect(sheet.systems.at(-1)?.lines.at(-1)?.kind).toBe("repeat");
    expect(sheet.systems.flatMap((s) => s.layout.numbers)).toHaveLength(24);
  });

  it("hold a bar each where no more fits", () => {
    expect(layoutSheet(drill(64, 0.25), 16, 320).systems).toHaveLength(4);
  });

  it("draw a slur in from the line before", () => {
    const two = drill(16, 1);
    const events = two.events.map((e, i) => ({
      ...e,
      articulation: i === 8 ? ("hammer" as const) : ("pick" as const),
      notes: [{ string: 3, fret: i, muted: false }],
    }));
    const sheet = layoutSheet({ ...two, events }, 16, 900);
    const [slur] = sheet.systems[1]?.layout.slurs ?? [];
    expect(slur?.toX).toBe(LEFT_PX);
    expect(slur?.fromX).toBeLessThan(LEFT_PX);
    expect(slur?.fromX).toBeGreaterThanOrEqual(0);
  });

  it("are taken over where nothing changed", () => {
    const before = drill(24, 1);
    const first = layoutSheet(before, 24, 900);
    const events = before.events.with(20, {
      ...(before.events[20] as (typeof before.events)[0]),
      accent: true,
    });
    const second = layoutSheet({ ...before, events }, 24, 900, first);
    expect(second.systems.map((s, i) => s === first.systems[i])).toEqual([true, true, false]);
  });

  it("say where a beat stands, and what stands at a point", () => {
    const sheet = layoutSheet(drill(24, 1), 24, 900);
    for (const beat of [0, 3.5, 8, 23.75]) {
      const { x, y } = placeOf(sheet, beat);
      for (const string of [1, 6]) {
        expect(pointAt(sheet, x, y + TOP + (string - 1) * STRING_GAP, 0.25, 6)).toEqual({ beat, string });
      }
    }
    expect(pointAt(sheet, -50, -50, 1, 6)).toEqual({ beat: 0, string: 1 });
    expect(pointAt(sheet, 9999, 9999, 1, 6)).toEqual({ beat: 23, string: 6 });
  });

  it("of 500 events are laid out anew only where an event changed, or sounds on", () => {
    const long = drill(500, 0.25);
    const sheet = layoutSheet(long, 125, 1200);
    expect(sheet.systems.length).toBeGreaterThan(8);
    const place = 250;
    const events = long.events.with(place, {
      ...(long.events[place] as (typeof long.events)[0]),
      accent: true,
    });
    const again = layoutSheet({ ...long, events }, 125, 1200, sheet);
    const anew = again.systems.filter((system, i) => system !== sheet.systems[i]);
    const own = sheet.systems.find((s) => s.fromBeat <= place / 4 && place / 4 < s.toBeat);
    expect(anew.map((s) => s.index)).toContain(own?.index);
    expect(anew.length).toBeLessThanOrEqual(2);
    expect(again).toEqual(layoutSheet({ ...long, events }, 125, 1200));
  });

  it("count beats as the core does", () => {
    expect(lengthBeatsOf(drill(5, 1))).toBe(8);
    expect(lengthBeatsOf(drill(3, 1 / 3))).toBe(4);
    expect(lengthBeatsOf({ ...drill(5, 1), tempo: null })).toBe(5);
  });
});
