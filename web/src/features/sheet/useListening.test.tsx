import { act, renderHook } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { NoiseEvent } from "~/api/client";
import { makeAxis } from "~/lib/axis.math";
import type { Passage, Player } from "~/lib/usePlayer";
import { heardNote, heardNotes, type NotePart, ONE_A_SECOND } from "~/testing/notes";
import { bestWords, type ListeningProps, passageOf, useListening } from "./useListening";

const RING = {
  kind: "ring",
  from_s: 1,
  to_s: 1.5,
  level_db: -20,
  hz: 330,
  string: 1,
} as unknown as NoiseEvent;

/** The middle note of three repeats, and a player that only writes down what it is asked. */
function listening(parts: Record<string, NotePart> = {}, changed: Partial<ListeningProps> = {}) {
  const notes = heardNotes(parts);
  const play = vi.fn<(passage: Passage) => void>();
  const stop = vi.fn();
  const player = (playing: Passage | null): Player => ({
    playing,
    play,
    stop,
    position: () => null,
    failed: false,
    ready: true,
  });
  const props = (playing: Passage | null): ListeningProps => ({
    player: player(playing),
    axis: ONE_A_SECOND,
    beatsPerBar: 4,
    selected: notes.find((n) => n.key === "n1@1") ?? null,
    range: null,
    notes,
    ring: null,
    ...changed,
  });
  const { result, rerender } = renderHook(useListening, { initialProps: props(null) });
  return {
    now: () => result.current,
    do: (what: (l: typeof result.current) => void) => act(() => what(result.current)),
    asked: () => play.mock.lastCall?.[0],
    playing: (passage: Passage | null) => rerender(props(passage)),
    play,
    stop,
  };
}

const off = (cents: number): NotePart =>
  ({
    pitch: { error_cents: cents, u_cents: 1, median_hz: 200, verdict: "outside", target_hz: 196 },
  }) as unknown as NotePart;

describe("what can be listened to", () => {
  it("is a note that was heard, with what stands around it", () => {
    const { can } = listening().now();
    expect(can).toMatchObject({ context: true, note: true, best: true, ring: false, fixed: false });
  });

  it("is nothing of a note that was not heard", () => {
    const { can } = listening({ "n1@1": { onset_s: null, end_s: null, status: "missed" } }).now();
    expect(can).toMatchObject({ context: false, note: false, both: false, best: false, fixed: false });
    const cut = listening({ "n1@1": { end_s: null } }).now().can;
    expect(cut).toMatchObject({ context: false, note: false });
  });

  it("is a range although its last note was not heard", () => {
    const { can } = listening({ "n1@1": { onset_s: null, end_s: null } }, { range: [4, 6] }).now();
    expect(can).toMatchObject({ context: true, note: false });
  });

  it("is the right pitch of a note that is 2 cents off or more, and has no vibrato", () => {
    expect(listening({ "n1@1": off(2) }).now().can.fixed).toBe(true);
    expect(listening({ "n1@1": off(-2.5) }).now().can.fixed).toBe(true);
    expect(listening({ "n1@1": off(1.9) }).now().can.fixed).toBe(false);
    const shaken = { ...off(20), vibrato: {} } as unknown as NotePart;
    expect(listening({ "n1@1": shaken }).now().can.fixed).toBe(false);
    expect(listening({ "n1@1": { ...off(20), status: "extra" as never } }).now().can.fixed).toBe(false);
  });

  it("is the string that rings, and says the best repeat from 1", () => {
    expect(listening({}, { ring: RING }).now().can.ring).toBe(true);
    expect(listening({ "n1@0": { clean: "outside" } }).now().best).toBe(3);
    expect(listening({ "n1@0": { status: "missed" }, "n1@2": { status: "missed" } }).now().best).toBeNull();
  });
});

describe("what is played", () => {
  it("is the note with a little before and after it", () => {
    const it_ = listening();
    it_.do((l) => l.listen("note"));
    expect(it_.asked()).toMatchObject({ toneHz: null, withTake: true, rate: 1, loop: false });
    expect(it_.asked()?.from).toBeCloseTo(4.94, 6);
    expect(it_.asked()?.to).toBeCloseTo(5.98, 6);
  });

  it("is 0.7 s more on both sides in context, and exactly a range with a little around it", () => {
    const alone = listening();
    alone.do((l) => l.listen("context"));
    expect(alone.asked()?.from).toBeCloseTo(4.3, 6);
    expect(alone.asked()?.to).toBeCloseTo(6.6, 6);
    const range = listening({}, { range: [2, 6] });
    range.do((l) => l.listen("context"));
    expect(range.asked()?.from).toBeCloseTo(1.94, 6);
    expect(range.asked()?.to).toBeCloseTo(6.08, 6);
    range.do((l) => l.listen("note"));
    expect(range.asked()?.from).toBeCloseTo(4.94, 6);
  });

  it("never begins before the take", () => {
    const first = heardNotes()[0] ?? null;
    const it_ = listening({}, { selected: first });
    it_.do((l) => l.listen("context"));
    expect(it_.asked()?.from).toBe(0);
  });

  it("is this repeat and then the best one", () => {
    const it_ = listening({ "n1@0": { clean: "outside" } });
    it_.do((l) => l.listen("best"));
    const pieces = it_.asked()?.pieces ?? [];
    expect(pieces).toHaveLength(2);
    expect(pieces[0]?.from).toBeCloseTo(4.94, 6);
    expect(pieces[1]?.from).toBeCloseTo(8.94, 6);
    expect(pieces[1]?.to).toBeCloseTo(9.98, 6);
  });

  it("is the hold as it was, then moved by what it is off", () => {
    const it_ = listening({ "n1@1": off(-14) });
    it_.do((l) => l.listen("fixed"));
    expect(it_.asked()?.pieces?.map((p) => p.cents)).toEqual([undefined, 14]);
  });

  it("has the clicks of its beats, a bar's first louder, where they are asked for", () => {
    const it_ = listening();
    it_.do((l) => l.listen("context"));
    expect(it_.asked()?.clicks).toBeUndefined();
    it_.do((l) => l.setClick(true));
    it_.do((l) => l.listen("context"));
    expect(it_.asked()?.clicks).toEqual([
      { at: 5, accent: false },
      { at: 6, accent: false },
    ]);
  });

  it("keeps the speed and the loop that were set, but not for a tone or a ring", () => {
    const it_ = listening({ "n1@1": off(9) }, { ring: RING });
    it_.do((l) => l.setRate(0.5));
    it_.do((l) => l.setLoop(true));
    it_.do((l) => l.listen("note"));
    expect(it_.asked()).toMatchObject({ rate: 0.5, loop: true });
    it_.do((l) => l.listen("ring"));
    expect(it_.asked()).toMatchObject({ rate: 1, liftDb: 20 });
  });

  it("stops what sounds when it is asked for again, and changes to another", () => {
    const it_ = listening();
    it_.do((l) => l.listen("note"));
    it_.playing(it_.asked() ?? null);
    expect(it_.now().heard).toBe("note");
    it_.do((l) => l.listen("note"));
    expect(it_.stop).toHaveBeenCalledOnce();
    expect(it_.play).toHaveBeenCalledOnce();
    it_.do((l) => l.listen("context"));
    expect(it_.play).toHaveBeenCalledTimes(2);
    it_.playing({ ...(it_.asked() as Passage), bands: [] as never });
    expect(it_.now().heard).toBe("ring");
    it_.playing(null);
    expect(it_.now().heard).toBeNull();
  });

  it("is nothing where there is nothing", () => {
    const it_ = listening({ "n1@1": { onset_s: null, end_s: null } });
    it_.do((l) => l.listen("note"));
    it_.do((l) => l.listen("ring"));
    expect(it_.play).not.toHaveBeenCalled();
    expect(listening({}, { axis: makeAxis(20, 50, { bpm: null, first_beat_s: null }) }).now().hasBeats).toBe(
      false,
    );
    expect(listening().now().hasBeats).toBe(true);
  });
});

describe("a noise", () => {
  it("is heard with 0.6 s around it, or alone in its own bands and lifted", () => {
    const notes = heardNotes();
    expect(passageOf(RING, notes, false)).toMatchObject({ from: 0.4, to: 2.1 });
    const alone = passageOf(RING, notes, true);
    expect(alone).toMatchObject({ from: 0.9, to: 1.6, liftDb: 20 });
    expect(alone.bands?.length).toBeGreaterThan(0);
    expect(passageOf({ ...RING, hz: null } as NoiseEvent, notes, true).bands).toBeUndefined();
    expect(passageOf({ ...RING, from_s: 0.2 } as NoiseEvent, notes, false).from).toBe(0);
  });
});

describe("what is said and played at the limits", () => {
  it("says why a repeat is held beside this one, and how near it came", () => {
    const words = (part: NotePart) => bestWords(heardNote(1, 2, part).note);
    expect(words({})).toBe("Repeat 3 is the cleanest.");
    expect(words(off(-4))).toBe("Repeat 3 is the cleanest, 4.0 cents flat.");
    expect(words({ ...off(20), clean: "outside" })).toBe(
      "Repeat 3 came nearest, though not surely clean, 20 cents sharp.",
    );
  });

  it("is the hold of a bend, as it was and as it should be", () => {
    const bend = { bend: { error_cents: 9, plateau: [5.2, 5.6] } } as unknown as NotePart;
    const it_ = listening({ "n1@1": bend });
    it_.do((l) => l.listen("fixed"));
    expect(it_.asked()?.pieces).toEqual([
      { from: 5.2, to: 5.6 },
      { from: 5.2, to: 5.6, cents: -9 },
    ]);
  });

  it("has a tone, alone or with the take, only of a note with a pitch that is asked for", () => {
    expect(listening({ "n1@1": off(9) }).now().can).toMatchObject({ tone: true, both: true });
    expect(listening({}).now().can).toMatchObject({ tone: false, both: false });
    const unheard = { ...off(9), onset_s: null };
    expect(listening({ "n1@1": unheard }).now().can).toMatchObject({ tone: true, both: false });
    const it_ = listening({ "n1@1": off(9) });
    it_.do((l) => l.listen("both"));
    expect(it_.asked()?.toneHz).toBeCloseTo(200 / 2 ** (9 / 1200), 6);
    expect(it_.asked()).toMatchObject({ withTake: true, rate: 1 });
    it_.do((l) => l.listen("tone"));
    expect(it_.asked()).toMatchObject({ from: 0, to: 1.5, withTake: false, rate: 1 });
  });

  it("lets clicks go with the tone and the note, but not with two pieces", () => {
    const it_ = listening({ "n1@1": off(9) });
    it_.do((l) => l.setClick(true));
    it_.do((l) => l.listen("note"));
    expect(it_.asked()?.clicks).toEqual([{ at: 5, accent: false }]);
    it_.do((l) => l.listen("best"));
    expect(it_.asked()?.clicks).toBeUndefined();
    it_.do((l) => l.listen("fixed"));
    expect(it_.asked()?.clicks).toBeUndefined();
  });

  it("never begins a repeat before the take", () => {
    const it_ = listening({ "n1@0": { onset_s: 0.02 } });
    it_.do((l) => l.listen("best"));
    expect(it_.asked()?.pieces?.[1]?.from).toBe(0);
  });
});
