import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import {
  bendNote,
  change,
  changed,
  clearSpan,
  closeTime,
  copySpan,
  moveStrings,
  openTime,
  paste,
  Refused,
  redone,
  referenceFor,
  removeAt,
  repeatSpan,
  resize,
  sheetBeats,
  stepFrom,
  transpose,
  undone,
  writeNote,
  writeRest,
} from "./edit.math";

const OPEN = [64, 59, 55, 50, 45, 40];
const base = { articulation: "pick", bend: null, vibrato: null, accent: false, let_ring: false, voice: 1 };

function drill(...events: object[]): DrillContent {
  return {
    tuning: ["E4", "B3", "G3", "D3", "A2", "E2"],
    tempo: { bpm: 60, beats_per_bar: 4, count_in_beats: 4, swing: 0.5 },
    events: events.map((event, i) => ({ ...base, id: `e${i + 1}`, beat: 0, length: 1, notes: [], ...event })),
  } as unknown as DrillContent;
}
const note = (string: number, fret: number | null) => ({ string, fret, muted: fret === null });
const rest = (beat: number, length: number) => ({ beat, length, articulation: "none", notes: [] });
const at = (beat: number, string: number, fret: number, length = 1) => ({
  beat,
  length,
  notes: [note(string, fret)],
});
const seen = (d: DrillContent) =>
  d.events.map((e) => [
    e.beat,
    e.length,
    e.notes.map((n) => `${n.string}:${n.fret ?? "x"}`).join(" ") || "-",
  ]);

describe("writing notes", () => {
  it("closes a rest around a note", () => {
    const written = writeNote(drill(rest(0, 8)), { beat: 2, string: 3 }, 7, 1);
    expect(seen(written)).toEqual([
      [0, 2, "-"],
      [2, 1, "3:7"],
      [3, 5, "-"],
    ]);
  });

  it("takes the place of a rest that begins there", () => {
    expect(seen(writeNote(drill(rest(0, 8)), { beat: 0, string: 3 }, 7, 1))).toEqual([
      [0, 1, "3:7"],
      [1, 7, "-"],
    ]);
  });

  it("joins a chord, and changes its own string only", () => {
    const one = writeNote(drill(at(0, 3, 7)), { beat: 0, string: 2 }, 5, 1);
    expect(seen(one)).toEqual([[0, 1, "3:7 2:5"]]);
    expect(seen(writeNote(one, { beat: 0, string: 3 }, 9, 1))).toEqual([[0, 1, "3:9 2:5"]]);
  });

  it("ends at the next note and ends the one before", () => {
    const written = writeNote(drill(at(0, 3, 7, 4), at(3, 3, 5)), { beat: 2, string: 2 }, 8, 2);
    expect(seen(written)).toEqual([
      [0, 2, "3:7"],
      [2, 1, "2:8"],
      [3, 1, "3:5"],
    ]);
  });

  it("leaves what rings alone", () => {
    const written = writeNote(drill({ ...at(0, 6, 3, 4), let_ring: true }), { beat: 1, string: 2 }, 8, 1);
    expect(seen(written)[0]).toEqual([0, 4, "6:3"]);
  });

  it("gives every event a name of its own", () => {
    let written = drill(rest(0, 4));
    for (const beat of [3, 1, 0, 2]) written = writeNote(written, { beat, string: 1 }, 5, 0.5);
    expect(new Set(written.events.map((e) => e.id)).size).toBe(written.events.length);
    expect(written.events.map((e) => e.beat)).toEqual(
      [...written.events.map((e) => e.beat)].sort((a, b) => a - b),
    );
  });

  it("takes a note away, then its rest, and is never empty", () => {
    const cell = { beat: 0, string: 3 };
    const once = removeAt(drill(at(0, 3, 7)), cell);
    expect(seen(once)).toEqual([[0, 1, "-"]]);
    expect(seen(removeAt(once, cell))).toEqual([[0, 4, "-"]]);
  });

  it("refuses frets nobody has, and signs where nothing is", () => {
    expect(() => writeNote(drill(), { beat: 0, string: 1 }, 25, 1)).toThrow(Refused);
    expect(() => change(drill(rest(0, 4)), 0, { accent: true })).toThrow("no note");
    expect(() => resize(drill(rest(0, 4)), 2, 1)).toThrow("Nothing begins");
  });

  it("makes a rest of a note, and lengthens into a rest", () => {
    expect(seen(writeRest(drill(at(0, 3, 7)), 0, 1))).toEqual([[0, 1, "-"]]);
    expect(seen(resize(drill(at(0, 3, 7), rest(1, 3)), 0, 2))).toEqual([
      [0, 2, "3:7"],
      [2, 2, "-"],
    ]);
  });
});

describe("bends", () => {
  const bend = { kind: "bend" as const, target_cents: 200, reference: null, helpers: [] };

  it("put the bent note first and find the fretted note that sounds the target", () => {
    const two = bendNote(
      drill(at(0, 3, 9), { ...at(1, 2, 5), notes: [note(2, 5), note(3, 7)] }),
      { beat: 1, string: 3 },
      bend,
    );
    const event = two.events[1];
    expect(event?.notes.map((n) => n.string)).toEqual([3, 2]);
    expect(event && referenceFor(two, event)).toBe("e1");
  });

  it("lose a reference that is taken away", () => {
    const bent = drill(at(0, 3, 9), { ...at(1, 3, 7), bend: { ...bend, reference: "e1" } });
    expect(removeAt(bent, { beat: 0, string: 3 }).events[1]?.bend?.reference).toBeNull();
  });

  it("are refused on a muted string", () => {
    const muted = drill({ ...at(0, 3, 7), notes: [note(3, null)] });
    expect(() => bendNote(muted, { beat: 0, string: 3 }, bend)).toThrow("muted");
  });
});

describe("spans", () => {
  const riff = drill(at(0, 3, 5), at(1, 3, 7), at(2, 2, 5), at(3, 2, 8));

  it("are copied with their own names and put in the place of what is there", () => {
    const clip = copySpan(riff, { from: 0, to: 2 });
    const put = paste(riff, 2, clip);
    expect(seen(put)).toEqual([
      [0, 1, "3:5"],
      [1, 1, "3:7"],
      [2, 1, "3:5"],
      [3, 1, "3:7"],
    ]);
    expect(new Set(put.events.map((e) => e.id)).size).toBe(4);
  });

  it("keep a copied bend's reference within the copy", () => {
    const bent = drill(at(0, 3, 9), {
      ...at(1, 3, 7),
      bend: { kind: "bend", target_cents: 200, reference: "e1" },
    });
    const put = paste(bent, 4, copySpan(bent, { from: 0, to: 2 }));
    expect(put.events[3]?.bend?.reference).toBe(put.events[2]?.id);
  });

  it("are played once more, what follows moving on", () => {
    expect(seen(repeatSpan(riff, { from: 0, to: 2 })).map((e) => [e[0], e[2]])).toEqual([
      [0, "3:5"],
      [1, "3:7"],
      [2, "3:5"],
      [3, "3:7"],
      [4, "2:5"],
      [5, "2:8"],
    ]);
  });

  it("are emptied, opened and closed", () => {
    expect(seen(clearSpan(riff, { from: 1, to: 3 })).map((e) => e[0])).toEqual([0, 3]);
    expect(seen(openTime(riff, 2, 4)).map((e) => e[0])).toEqual([0, 1, 6, 7]);
    expect(seen(closeTime(riff, { from: 1, to: 3 })).map((e) => [e[0], e[2]])).toEqual([
      [0, "3:5"],
      [1, "2:8"],
    ]);
  });

  it("go up the neck or to another string, or say why not", () => {
    expect(seen(transpose(riff, { from: 0, to: 2 }, 2)).map((e) => e[2])).toEqual([
      "3:7",
      "3:9",
      "2:5",
      "2:8",
    ]);
    expect(() => transpose(riff, { from: 0, to: 4 }, -6)).toThrow("fret -1");
    expect(seen(moveStrings(riff, { from: 2, to: 4 }, 1, OPEN)).map((e) => e[2])).toEqual([
      "3:5",
      "3:7",
      "3:9",
      "3:12",
    ]);
    expect(() => moveStrings(riff, { from: 0, to: 1 }, -1, [64, 61, 55])).toThrow("does not have the pitch");
    expect(() => moveStrings(drill(at(0, 6, 3)), { from: 0, to: 1 }, 1, OPEN)).toThrow("no string 7");
  });

  it("keep the sounding pitch on the other string", () => {
    for (const by of [1, -1] as const) {
      const moved = moveStrings(drill(at(0, 3, 7)), { from: 0, to: 1 }, by, OPEN).events[0]?.notes[0];
      expect((OPEN[(moved?.string ?? 0) - 1] ?? 0) + (moved?.fret ?? 0)).toBe(62);
    }
  });
});

describe("moving and going back", () => {
  it("meets what lies between the steps", () => {
    const third = drill(at(0, 3, 5), { ...at(1 / 3, 3, 7), length: 0.3 });
    expect(stepFrom(third, 0, 1, 1)).toBeCloseTo(1 / 3);
    expect(stepFrom(third, 1, 1, -1)).toBeCloseTo(1 / 3);
    expect(stepFrom(third, 0, 0.5, -1)).toBe(0);
  });

  it("has a bar to go on in", () => {
    expect(sheetBeats(drill(at(0, 3, 5)))).toBe(8);
    expect(sheetBeats(drill(at(4, 3, 5)))).toBe(12);
  });

  it("undoes and redoes, and forgets what was undone when something new is written", () => {
    const first = drill(at(0, 3, 5));
    const second = transpose(first, { from: 0, to: 1 }, 1);
    const history = changed({ past: [], now: first, future: [] }, second);
    expect(undone(history).now).toBe(first);
    expect(redone(undone(history)).now).toBe(second);
    expect(changed(undone(history), transpose(first, { from: 0, to: 1 }, 2)).future).toEqual([]);
    expect(undone({ past: [], now: first, future: [] }).now).toBe(first);
  });
});
