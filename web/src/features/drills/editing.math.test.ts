import { describe, expect, it } from "vitest";
import type { DrillContent } from "~/api/client";
import { tuningFrom } from "./DrillSettings";
import { type EditState, opened, type Press, press, spanOf, spokenPlace, stepWords } from "./editing.math";
import { lengthFrom, lengthText, rangeFrom } from "./event.math";
import { midiOf } from "./pitch.math";

const OPEN = [64, 59, 55, 50, 45, 40];

function blank(): DrillContent {
  return {
    tuning: ["E4", "B3", "G3", "D3", "A2", "E2"],
    tempo: { bpm: 60, beats_per_bar: 4, count_in_beats: 4, swing: 0.5 },
    school: { speed: "tempo_steps", slur_force: "strong", vibrato_return: "bottom" },
    events: [
      {
        id: "e1",
        beat: 0,
        length: 8,
        articulation: "none",
        notes: [],
        bend: null,
        vibrato: null,
        accent: false,
        let_ring: false,
        voice: 1,
      },
    ],
  } as unknown as DrillContent;
}

/** Keys as "5", "Right", "^c" with Ctrl, "+Right" with Shift, "!Up" with Alt; a second apart unless joined by "~". */
function typed(keys: string, from: EditState = opened(blank())): EditState {
  let now = 0;
  return keys.split(" ").reduce((state, word) => {
    now += word.startsWith("~") ? 100 : 2000;
    const bare = word.replace(/^[~^+!]+(?=.)/, "");
    const named = ["Left", "Right", "Up", "Down"].includes(bare) ? `Arrow${bare}` : bare;
    const key: Press = {
      key: named,
      ctrl: word.includes("^"),
      shift: /\+./.test(word),
      alt: /!./.test(word),
      now,
    };
    return press(state, key, OPEN) ?? state;
  }, from);
}
const seen = (state: EditState) =>
  state.history.now.events
    .filter((e) => e.notes.length > 0)
    .map(
      (e) => `${e.beat} ${e.notes.map((n) => `${n.string}:${n.fret ?? "x"}`).join("+")} ${e.articulation}`,
    );

describe("writing by keys", () => {
  it("writes frets, and two quick digits as one", () => {
    expect(seen(typed("5 Right 1 ~2 Right 1 2"))).toEqual(["0 3:5 pick", "1 3:12 pick", "2 3:2 pick"]);
    // There is no fret 35: the second digit begins a new number.
    expect(seen(typed("3 ~5"))).toEqual(["0 3:5 pick"]);
  });

  it("writes chords, muted strings and signs", () => {
    const state = typed("7 Up 5 Down Right 9 h a Right x");
    expect(seen(state)).toEqual(["0 3:7+2:5 pick", "1 3:9 hammer", "2 3:x pick"]);
    expect(state.history.now.events.find((e) => e.beat === 1)?.accent).toBe(true);
    expect(seen(typed("h", typed("Left", state)))).toContain("1 3:9 pick");
  });

  it("goes through the bends and back to none, with a reference where there is one", () => {
    const bent = typed("9 Right 7 b");
    const bend = (state: EditState) => state.history.now.events.find((e) => e.beat === 1)?.bend;
    expect(bend(bent)).toMatchObject({ kind: "bend", target_cents: 200, reference: "e2" });
    expect(bend(typed("b", bent))).toMatchObject({ target_cents: 100, reference: null });
    expect(bend(typed("b b b", bent))).toMatchObject({ kind: "curl", target_cents: [20, 80] });
    expect(bend(typed("b b b b", bent))).toBeNull();
  });

  it("asks for vibrato from the school's line, and of a bend back up to its top", () => {
    const vibrato = (keys: string) => typed(keys).history.now.events[0]?.vibrato?.return;
    expect(vibrato("7 v")).toBe("bottom");
    expect(vibrato("7 b v")).toBe("top");
    expect(vibrato("7 v v")).toBeUndefined();
  });

  it("writes triplets", () => {
    const state = typed("] ] 5 Right 7 Right 8");
    expect(stepWords(state.step)).toContain("triplet");
    expect(state.history.now.events.slice(0, 3).map((e) => [e.beat, e.length])).toEqual([
      [0, 0.333333],
      [0.333333, 0.333333],
      [0.666667, 0.333333],
    ]);
  });

  it("selects, copies, puts in, repeats and deletes", () => {
    const two = typed("5 Right 7");
    const selected = typed("+Left", two);
    expect(spanOf(selected)).toEqual({ from: 0, to: 2 });
    expect(seen(typed("^c Escape Right Right ^v", selected))).toEqual([
      "0 3:5 pick",
      "1 3:7 pick",
      "2 3:5 pick",
      "3 3:7 pick",
    ]);
    expect(seen(typed("^d", selected))).toHaveLength(4);
    expect(seen(typed("Delete", selected))).toEqual([]);
    expect(typed("^v").message).toContain("Nothing has been copied");
  });

  it("moves along the neck and across the strings, and says what does not go", () => {
    const one = typed("5");
    expect(seen(typed("^Up ^Up", one))).toEqual(["0 3:7 pick"]);
    const across = typed("!Up", one);
    expect(seen(across)).toEqual(["0 2:1 pick"]);
    expect(across.cell.string).toBe(2);
    expect(typed("^Down ^Down ^Down ^Down ^Down ^Down", one).message).toContain("fret -1");
  });

  it("undoes and redoes everything", () => {
    const state = typed("5 Right 7 h ^Up");
    const back = typed("^z ^z ^z ^z", state);
    expect(seen(back)).toEqual([]);
    expect(seen(typed("^y ^y ^y ^y", back))).toEqual(seen(state));
  });

  it("puts bars in and takes them out", () => {
    const state = typed("5 ^Enter");
    expect(seen(state)).toEqual(["4 3:5 pick"]);
    expect(seen(typed("^+Enter", state))).toEqual(["0 3:5 pick"]);
  });

  it("stays on the sheet", () => {
    expect(typed("Left Up Up Up Up").cell).toEqual({ beat: 0, string: 1 });
    expect(typed(Array(40).fill("Right").join(" ")).cell.beat).toBe(11);
  });

  it("leaves keys alone that mean nothing here", () => {
    for (const key of ["q", "F5", "Tab"]) expect(press(opened(blank()), { key, now: 0 }, OPEN)).toBeNull();
    expect(press(opened(blank()), { key: "r", ctrl: true, now: 0 }, OPEN)).toBeNull();
  });

  it("says what stands at the cursor", () => {
    const state = typed("7 Right");
    expect(spokenPlace(state)).toBe("Bar 1, beat 2, string 3: rest");
    expect(spokenPlace(typed("Left", state))).toBe("Bar 1, beat 1, string 3: fret 7");
  });
});

describe("values as they are written", () => {
  it.each([
    ["1", 1],
    ["1/3", 1 / 3],
    ["0,5", 0.5],
    ["none", null],
    ["0", null],
    ["1/0", null],
  ])("reads the length %s", (text, beats) => {
    if (beats === null) expect(lengthFrom(text)).toBeNull();
    else expect(lengthFrom(text)).toBeCloseTo(beats);
  });

  it.each([
    [0.333333, "1/3"],
    [1.5, "1.5"],
    [0.2, "1/5"],
    [0.166667, "1/6"],
  ])("says the length %s", (beats, text) => expect(lengthText(beats)).toBe(text));

  it("reads tunings of four to eight strings", () => {
    expect(tuningFrom("d4 A3, F#3 D3 A2 D2")).toEqual(["D4", "A3", "F#3", "D3", "A2", "D2"]);
    for (const wrong of ["E4 B3 G3", "E4 B3 G3 H3", "", "E4 B3 G3 D9"]) expect(tuningFrom(wrong)).toBeNull();
  });

  it("reads ranges and pitches", () => {
    expect(rangeFrom("4–6")).toEqual([4, 6]);
    expect(rangeFrom("5")).toEqual([5, 5]);
    expect(rangeFrom("6-4")).toBeNull();
    expect(rangeFrom("")).toBeNull();
    expect(["E4", "Bb3", "F#2", 40.5].map(midiOf)).toEqual([64, 58, 42, 40.5]);
  });
});
