import { describe, expect, it } from "vitest";
import { fretsShown, handFret, layoutNeck, NECK, neckWords, type Posture } from "./neck.math";

const POWER: Posture = {
  event: "e1",
  beat: 0,
  held: [
    { string: 5, fret: 5, finger: "1", flat: true },
    { string: 4, fret: 7, finger: "3", flat: false },
  ],
  sounding: [4, 5],
  pushed: null,
  quiet: [
    { string: 1, part: "underside", finger: "1", sure: true, says: "the flat first finger" },
    { string: 2, part: "underside", finger: "1", sure: true, says: "the flat first finger" },
    { string: 6, part: "tip", finger: "1", sure: true, says: "the tip of the first finger" },
  ],
  unreachable: [3],
  says: ["The flat first finger lies over strings 1 and 2."],
  moved: [],
};
const BEND: Posture = {
  ...POWER,
  held: [{ string: 3, fret: 7, finger: "3", flat: false }],
  sounding: [3],
  pushed: "toward_thicker",
  quiet: [
    { string: 4, part: "palm", finger: null, sure: true, says: "" },
    { string: 5, part: "palm", finger: null, sure: true, says: "" },
    { string: 6, part: "thumb_over", finger: "thumb", sure: true, says: "" },
    { string: 1, part: "idle_finger", finger: "2", sure: true, says: "" },
  ],
  unreachable: [],
};
const y = (string: number) => NECK.top + (string - 1) * NECK.stringGap;

describe("a drawing of the neck", () => {
  it("shows the frets around the hand, four at least, and the nut where it is near", () => {
    expect(handFret(POWER)).toBe(5);
    expect(fretsShown(POWER)).toEqual([3, 8]);
    const low = { ...POWER, held: [{ string: 6, fret: 1, finger: "1", flat: false }] };
    expect(fretsShown(low)).toEqual([0, 4]);
    expect(layoutNeck(low, 6).nut).toBe(NECK.left);
    expect(layoutNeck(POWER, 6).nut).toBeNull();
    expect(fretsShown({ ...POWER, held: [] })).toEqual([0, 4]);
    expect(handFret({ ...POWER, held: [{ string: 1, fret: 12, finger: "tap", flat: false }] })).toBeNull();
  });

  it("has narrower frets higher up, in their true proportions", () => {
    const x = layoutNeck(POWER, 6).frets.map((f) => f.x);
    const gaps = x.slice(1).map((at, i) => at - (x[i] as number));
    for (const [i, gap] of gaps.slice(1).entries())
      expect(gap / (gaps[i] as number)).toBeCloseTo(2 ** (-1 / 12), 6);
  });

  it("puts fingers behind their wires on their strings", () => {
    const neck = layoutNeck(POWER, 6);
    const wire = (fret: number) => neck.frets.find((f) => f.number === fret)?.x as number;
    expect(neck.fingers.map((f) => [f.label, f.y])).toEqual([
      ["1", y(5)],
      ["3", y(4)],
    ]);
    expect(neck.fingers[0]?.x).toBeLessThan(wire(5));
    expect(neck.fingers[0]?.x).toBeGreaterThan(wire(4));
  });

  it("draws a flat finger from its note over the strings it quiets, and its tip to the next", () => {
    const { covers, strings } = layoutNeck(POWER, 6);
    expect(covers.map((c) => [c.kind, c.fromY, c.toY])).toEqual([
      ["flat", y(1), y(5)],
      ["tip", y(5), y(6)],
    ]);
    expect(strings.filter((s) => s.sounds).map((s) => s.number)).toEqual([4, 5]);
    expect(strings.filter((s) => !s.reached).map((s) => s.number)).toEqual([3]);
    expect((strings[5]?.thick as number) > (strings[0]?.thick as number)).toBe(true);
  });

  it("stands the picking hand beside its strings, and says which way a string is pushed", () => {
    const neck = layoutNeck(BEND, 6);
    expect(neck.hands.map((h) => [h.kind, h.fromY, h.toY])).toEqual([["palm", y(4), y(5)]]);
    expect(neck.covers.map((c) => [c.kind, c.label])).toEqual([
      ["thumb", "T"],
      ["idle", "2"],
    ]);
    expect(neck.push && neck.push.toY > neck.push.fromY).toBe(true);
    const thin = layoutNeck({ ...BEND, pushed: "toward_thinner" }, 6).push;
    expect(thin && thin.toY < thin.fromY).toBe(true);
    expect(neckWords(BEND)).toContain("string 3 is pushed toward the thicker strings");
  });

  it("is mirrored for the left hand", () => {
    const right = layoutNeck(BEND, 6);
    const left = layoutNeck(BEND, 6, true);
    expect(left.fingers[0]?.x).toBeCloseTo(NECK.width - (right.fingers[0]?.x as number), 6);
    expect(left.hands[0]?.x).toBeCloseTo(NECK.width - (right.hands[0]?.x as number), 6);
    expect(left.fingers[0]?.y).toBe(right.fingers[0]?.y);
  });

  it("shows a slide over its wire, open strings at the nut, and a tap by its own mark", () => {
    const slide = {
      ...POWER,
      held: [1, 3].map((string) => ({ string, fret: 5, finger: "slide", flat: false })),
      quiet: [],
    };
    const neck = layoutNeck(slide, 6);
    expect(neck.covers).toMatchObject([{ kind: "slide", fromY: y(1), toY: y(3) }]);
    expect(neck.covers[0]?.x).toBeCloseTo(neck.frets.find((f) => f.number === 5)?.x as number, 6);
    expect(neck.fingers).toEqual([]);
    const open = { ...POWER, held: [{ string: 5, fret: 0, finger: null, flat: false }], quiet: [] };
    expect(layoutNeck(open, 6).open).toHaveLength(1);
    const tap = { ...POWER, held: [{ string: 2, fret: 12, finger: "tap", flat: false }], quiet: [] };
    expect(layoutNeck(tap, 6).fingers[0]).toMatchObject({ tapped: true, label: "t" });
  });

  it("is said in words", () => {
    expect(neckWords(POWER)).toBe(
      "finger 1 on string 5, fret 5; finger 3 on string 4, fret 7. The flat first finger lies over strings 1 and 2.",
    );
    expect(neckWords({ ...POWER, held: [], says: [] })).toBe("No string is held.");
  });
});
