/** Layout of a tab line: what stands where, in CSS pixels; pure, used by the drill page and the take sheet. */
import type { DrillContent, DrillEvent } from "~/api/client";
import { bendWords } from "~/lib/words";

export const STRING_GAP = 13;
export const TOP = 34;
const STEM_PX = 14;
const STEM_ROOM = 44;

export interface TabNumber {
  key: string;
  eventId: string;
  repeat: number;
  x: number;
  y: number;
  text: string;
}

export interface TabBend {
  key: string;
  x: number;
  y: number;
  tipX: number;
  tipY: number;
  label: string;
  held: boolean;
  untilX: number;
}

export interface TabRest {
  key: string;
  x: number;
  y: number;
}

export interface TabSlur {
  key: string;
  fromX: number;
  toX: number;
  y: number;
  label: string;
}

/** A note's length: stem, beams or flags below the strings; dotted: half as long again. */
export interface TabStem {
  key: string;
  x: number;
  fromY: number;
  toY: number;
  dotted: boolean;
}

export interface TabBeam {
  key: string;
  fromX: number;
  toX: number;
  y: number;
}

export interface TabBracket {
  key: string;
  fromX: number;
  toX: number;
  y: number;
  label: string;
}

export interface TabWave {
  key: string;
  fromX: number;
  toX: number;
  y: number;
}

export interface TabAccent {
  key: string;
  x: number;
  y: number;
}

export interface TabLayout {
  strings: { y: number; name: string }[];
  heightPx: number;
  numbers: TabNumber[];
  bends: TabBend[];
  rests: TabRest[];
  slurs: TabSlur[];
  stems: TabStem[];
  beams: TabBeam[];
  brackets: TabBracket[];
  waves: TabWave[];
  accents: TabAccent[];
}

const SLUR_LABELS: Record<string, string> = { hammer: "H", pull: "P", tap: "T", slide: "S" };

/** xOfBeat: pixels of a beat counted from the start of the first repeat. */
export function layoutTab(
  drill: DrillContent,
  lengthBeats: number,
  repeats: number,
  xOfBeat: (beat: number) => number,
): TabLayout {
  const count = drill.tuning.length;
  const yOf = (string: number) => TOP + (string - 1) * STRING_GAP;
  const layout: TabLayout = {
    strings: drill.tuning.map((name, i) => ({ y: yOf(i + 1), name: stringName(name) })),
    heightPx: TOP + (count - 1) * STRING_GAP + STEM_ROOM,
    numbers: [],
    bends: [],
    rests: [],
    slurs: [],
    stems: [],
    beams: [],
    brackets: [],
    waves: [],
    accents: [],
  };
  const bottom = yOf(count);
  for (let repeat = 0; repeat < repeats; repeat += 1) {
    drill.events.forEach((event, index) => {
      placeEvent(layout, drill, event, index, repeat, (beat) => xOfBeat(repeat * lengthBeats + beat), yOf);
    });
    placeRhythm(layout, drill, repeat, (beat) => xOfBeat(repeat * lengthBeats + beat), bottom);
  }
  return layout;
}

function placeEvent(
  layout: TabLayout,
  drill: DrillContent,
  event: DrillEvent,
  index: number,
  repeat: number,
  x: (beat: number) => number,
  yOf: (string: number) => number,
) {
  const key = `${event.id}@${repeat}`;
  const at = x(event.beat);
  const notes = event.notes ?? [];
  if (notes.length === 0) {
    layout.rests.push({ key, x: at, y: yOf((drill.tuning.length + 1) / 2) });
    return;
  }
  const again = event.articulation === "repluck";
  for (const note of notes) {
    const fret = note.muted ? "×" : String(note.fret);
    layout.numbers.push({
      key: `${key}/${note.string}`,
      eventId: event.id,
      repeat,
      x: at,
      y: yOf(note.string),
      text: again ? `(${fret})` : fret,
    });
  }
  const first = notes[0];
  if (event.bend && first) {
    const y = yOf(first.string);
    layout.bends.push({
      key,
      x: at + 9,
      y,
      tipX: at + 23,
      tipY: TOP - 15,
      label: again ? "held" : bendWords(event.bend.target_cents as number | [number, number]),
      held: again,
      untilX: x(event.beat + event.length) - 12,
    });
  }
  if (event.accent) layout.accents.push({ key, x: at, y: TOP - 10 });
  if (event.vibrato && first) {
    const y = TOP - (event.bend ? 22 : 10);
    const from = event.bend ? x(event.beat + Math.min(1, event.length / 2)) : at;
    layout.waves.push({ key, fromX: from, toX: x(event.beat + event.length) - 14, y });
  }
  const label = SLUR_LABELS[event.articulation];
  const before = drill.events[index - 1];
  if (label && before?.notes?.[0] && first) {
    layout.slurs.push({ key, fromX: x(before.beat), toX: at, y: yOf(first.string) - 7, label });
  }
}

/** How a length is written: as so many flags, dotted or not; in a tuplet the length it would have without one. */
export function writtenLength(beats: number): {
  flags: number;
  dotted: boolean;
  tuplet: boolean;
  stem: number;
} {
  const near = (value: number) => [4, 2, 1, 0.5, 0.25, 0.125].find((l) => Math.abs(l - value) < 0.01);
  const plain = near(beats);
  const dotted = plain === undefined ? near(beats / 1.5) : undefined;
  const inTuplet = plain === undefined && dotted === undefined ? near(beats * 1.5) : undefined;
  const length = plain ?? dotted ?? inTuplet ?? beats;
  return {
    flags: length >= 0.99 ? 0 : length >= 0.49 ? 1 : length >= 0.24 ? 2 : 3,
    dotted: dotted !== undefined,
    tuplet: inTuplet !== undefined,
    stem: length >= 3.9 ? 0 : length >= 1.9 ? STEM_PX / 2 : STEM_PX,
  };
}

/** Stems of one repeat, beamed within a beat, with a bracket over each beat's tuplet. */
function placeRhythm(
  layout: TabLayout,
  drill: DrillContent,
  repeat: number,
  x: (beat: number) => number,
  bottom: number,
) {
  const fromY = bottom + 11;
  const sounding = drill.events.filter((event) => event.notes?.length);
  const beatOf = (event: DrillEvent) => Math.floor(event.beat + 1e-4);
  sounding.forEach((event, index) => {
    const key = `${event.id}@${repeat}`;
    const { flags, dotted, tuplet, stem } = writtenLength(event.length);
    const at = x(event.beat);
    if (stem > 0) layout.stems.push({ key, x: at, fromY, toY: fromY + stem, dotted });
    const next = sounding[index + 1];
    const before = sounding[index - 1];
    const joins = (other: DrillEvent | undefined) =>
      other !== undefined &&
      beatOf(other) === beatOf(event) &&
      Math.abs(Math.abs(other.beat - event.beat) - Math.min(other.length, event.length)) < 0.01;
    for (let flag = 0; flag < flags; flag += 1) {
      const shared = (other: DrillEvent | undefined) =>
        joins(other) && other !== undefined && writtenLength(other.length).flags > flag;
      const y = fromY + stem - flag * 4;
      if (next && shared(next)) layout.beams.push({ key: `${key}/${flag}`, fromX: at, toX: x(next.beat), y });
      else if (!shared(before)) layout.beams.push({ key: `${key}/${flag}`, fromX: at, toX: at + 6, y });
    }
    if (tuplet && !(before && beatOf(before) === beatOf(event) && writtenLength(before.length).tuplet)) {
      const group = sounding.filter((e) => beatOf(e) === beatOf(event) && writtenLength(e.length).tuplet);
      const last = group.at(-1) ?? event;
      const label = String(Math.max(3, group.length));
      layout.brackets.push({ key, fromX: at - 3, toX: x(last.beat) + 3, y: fromY + STEM_PX + 5, label });
    }
  });
}

function stringName(pitch: string | number): string {
  return typeof pitch === "string" ? pitch.replace(/-?\d+$/, "") : String(pitch);
}
