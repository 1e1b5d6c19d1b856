/** Layout of a tab line: what stands where, in CSS pixels; pure, used by the drill page and the take sheet. */
import type { DrillContent, DrillEvent } from "~/api/client";
import { bendWords } from "~/lib/words";

export const STRING_GAP = 13;
export const TOP = 34;
const STEM_PX = 14;
const STEM_ROOM = 44;
const HANDS_ROOM = 36;
const FINGERS: Record<string, string> = { thumb: "T", tap: "t", slide: "sl" };

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
  /** up: an arrow from the note; pre: bent before it is struck, straight up; held: the bend before, struck again. */
  shape: "up" | "pre" | "held";
  /** Let down again: where the way down begins. */
  downX: number | null;
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
  /** A slide is a line between the numbers, rising or falling; everything else an arc. */
  slide: "up" | "down" | null;
}

export interface TabRing {
  key: string;
  fromX: number;
  toX: number;
  y: number;
  /** Empty where the line goes on from the note before. */
  label: string;
}

/** What the hands do at a place: the stroke over the fingers, from the thinnest string down. */
export interface TabHand {
  key: string;
  x: number;
  y: number;
  stroke: "down" | "up" | "on" | null;
  fingers: string;
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
  rings: TabRing[];
  hands: TabHand[];
}

/** What of a layout stands between two pixels, with what reaches into them. */
export function layoutWithin(layout: TabLayout, from: number, to: number): TabLayout {
  const at = <T extends { x: number }>(all: T[]) => all.filter(({ x }) => x >= from && x <= to);
  const over = <T extends { fromX: number; toX: number }>(all: T[]) =>
    all.filter(({ fromX, toX }) => toX >= from && fromX <= to);
  return {
    ...layout,
    numbers: at(layout.numbers),
    bends: layout.bends.filter(({ x, untilX }) => Math.max(x, untilX) >= from && x <= to),
    rests: at(layout.rests),
    stems: at(layout.stems),
    accents: at(layout.accents),
    slurs: over(layout.slurs),
    beams: over(layout.beams),
    brackets: over(layout.brackets),
    waves: over(layout.waves),
    rings: over(layout.rings),
    hands: at(layout.hands),
  };
}

/** The part of a drill that is laid out: events from one beat on and before another. */
export interface TabRange {
  from: number;
  to: number;
}

const NEAR = 1e-4;
const TUPLET_TIME = { 3: 2, 5: 4, 7: 4 } as const;
const EDGE_PX = 16;
const SLUR_LABELS: Record<string, string> = { hammer: "H", pull: "P", tap: "T", slide: "S" };

/** xOfBeat: pixels of a beat counted from the start of the first repeat. hands: fingers and strokes below the strings. */
export function layoutTab(
  drill: DrillContent,
  lengthBeats: number,
  repeats: number,
  xOfBeat: (beat: number) => number,
  range: TabRange = { from: 0, to: Number.POSITIVE_INFINITY },
  hands = false,
): TabLayout {
  const count = drill.tuning.length;
  const yOf = (string: number) => TOP + (string - 1) * STRING_GAP;
  const layout: TabLayout = {
    strings: drill.tuning.map((name, i) => ({ y: yOf(i + 1), name: stringName(name) })),
    heightPx:
      TOP + (count - 1) * STRING_GAP + STEM_ROOM + (hands && drill.events.some(saysHands) ? HANDS_ROOM : 0),
    numbers: [],
    bends: [],
    rests: [],
    slurs: [],
    stems: [],
    beams: [],
    brackets: [],
    waves: [],
    accents: [],
    rings: [],
    hands: [],
  };
  const bottom = yOf(count);
  const inside = (event: DrillEvent) => event.beat >= range.from - NEAR && event.beat < range.to - NEAR;
  for (let repeat = 0; repeat < repeats; repeat += 1) {
    const x = (beat: number) =>
      xOfBeat(repeat * lengthBeats + Math.min(range.to, Math.max(range.from, beat))) -
      (beat < range.from - NEAR ? EDGE_PX : 0);
    const onString = new Map<number, DrillEvent>();
    for (const event of drill.events) {
      if (inside(event)) placeEvent(layout, drill, event, onString, repeat, x, yOf);
      for (const note of event.notes ?? []) onString.set(note.string, event);
    }
    placeRhythm(layout, drill.events.filter(inside), repeat, x, bottom);
    if (hands) placeHands(layout, drill.events.filter(inside), repeat, x, bottom);
  }
  return layout;
}

function placeEvent(
  layout: TabLayout,
  drill: DrillContent,
  event: DrillEvent,
  onString: Map<number, DrillEvent>,
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
  const first = notes[0];
  for (const note of notes) {
    const from = event.slide?.from_fret;
    const moved = from != null && first?.fret != null ? from - first.fret : null;
    const slid = moved === null || note.fret == null ? "" : `${note.fret + moved}/`;
    const fret = note.muted ? "×" : `${slid}${note.fret}`;
    layout.numbers.push({
      key: `${key}/${note.string}`,
      eventId: event.id,
      repeat,
      x: at,
      y: yOf(note.string),
      text: again ? `(${fret})` : fret,
    });
  }
  if (event.bend && first) {
    const y = yOf(first.string);
    const letDown = !again && (event.bend.kind === "prebend" || event.bend.kind === "release");
    layout.bends.push({
      key,
      x: at + 9,
      y,
      tipX: at + 23,
      tipY: TOP - 15,
      label: again ? "held" : bendWords(event.bend.target_cents as number | [number, number]),
      shape: again ? "held" : letDown ? "pre" : "up",
      downX: letDown ? x(event.beat + event.length / 2) : null,
      untilX: x(event.beat + event.length) - 12,
    });
  }
  if (event.accent) layout.accents.push({ key, x: at, y: TOP - 10 });
  if (event.vibrato && first) {
    const y = TOP - (event.bend ? 22 : 10);
    const from = event.bend ? x(event.beat + Math.min(1, event.length / 2)) : at;
    layout.waves.push({ key, fromX: from, toX: x(event.beat + event.length) - 14, y });
  }
  if (event.let_ring) {
    layout.rings.push({
      key,
      fromX: at,
      toX: x(event.beat + event.length) - 10,
      y: TOP - 24,
      label: "let ring",
    });
  }
  if (event.articulation === "palm_mute") {
    const before = [...onString.values()].reduce<DrillEvent | undefined>(
      (last, other) => (last && last.beat > other.beat ? last : other),
      undefined,
    );
    layout.rings.push({
      key: `${key}/palm`,
      fromX: at,
      toX: x(event.beat + event.length) - 6,
      y: TOP - 24,
      label: before?.articulation === "palm_mute" ? "" : "palm",
    });
  }
  const label = SLUR_LABELS[event.articulation];
  const before = first && onString.get(first.string);
  if (label && first && event.articulation === "tap") {
    layout.slurs.push({ key, fromX: at, toX: at, y: yOf(first.string) - 7, label, slide: null });
  } else if (label && first && before) {
    const from = before.notes?.find((note) => note.string === first.string)?.fret ?? 0;
    layout.slurs.push({
      key,
      fromX: x(before.beat),
      toX: at,
      y: event.articulation === "slide" ? yOf(first.string) : yOf(first.string) - 7,
      label: event.articulation === "slide" ? "" : label,
      slide: event.articulation === "slide" ? ((first.fret ?? 0) >= from ? "up" : "down") : null,
    });
  }
}

function saysHands(event: DrillEvent): boolean {
  return Boolean(event.stroke) || (event.notes ?? []).some((note) => note.finger);
}

/** Strokes and fingers of one repeat, in two rows under the rhythm. */
function placeHands(
  layout: TabLayout,
  events: DrillEvent[],
  repeat: number,
  x: (beat: number) => number,
  bottom: number,
) {
  for (const event of events.filter(saysHands)) {
    const notes = [...(event.notes ?? [])].sort((a, b) => a.string - b.string);
    layout.hands.push({
      key: `${event.id}@${repeat}/hand`,
      x: x(event.beat),
      y: bottom + STEM_ROOM + 12,
      stroke: !event.stroke
        ? null
        : event.stroke.startsWith("sweep")
          ? "on"
          : (event.stroke as "down" | "up"),
      fingers: notes.map((n) => (n.finger ? (FINGERS[n.finger] ?? n.finger) : "")).join(""),
    });
  }
}

/** How a length is written: as so many flags, dotted or not; in a tuplet the length it would have without one. */
export function writtenLength(beats: number): {
  flags: number;
  dotted: boolean;
  /** Notes in the time of the next smaller power of two, or 0. */
  tuplet: number;
  stem: number;
} {
  const near = (value: number) => [4, 2, 1, 0.5, 0.25, 0.125].find((l) => Math.abs(l / value - 1) < 0.02);
  const plain = near(beats);
  const dotted = plain === undefined ? near(beats / 1.5) : undefined;
  const tuplet =
    plain === undefined && dotted === undefined
      ? ([3, 5, 7].find((n) => near((beats * n) / TUPLET_TIME[n as 3 | 5 | 7]) !== undefined) ?? 0)
      : 0;
  const inTuplet = tuplet ? near((beats * tuplet) / TUPLET_TIME[tuplet as 3 | 5 | 7]) : undefined;
  const length = plain ?? dotted ?? inTuplet ?? beats;
  return {
    flags: length >= 0.99 ? 0 : length >= 0.49 ? 1 : length >= 0.24 ? 2 : 3,
    dotted: dotted !== undefined,
    tuplet,
    stem: length >= 3.9 ? 0 : length >= 1.9 ? STEM_PX / 2 : STEM_PX,
  };
}

/** Stems of one repeat, beamed within a beat, with a bracket over each beat's tuplet. */
function placeRhythm(
  layout: TabLayout,
  events: DrillEvent[],
  repeat: number,
  x: (beat: number) => number,
  bottom: number,
) {
  const fromY = bottom + 11;
  const sounding = events.filter((event) => event.notes?.length);
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
      let last = event;
      let count = 0;
      for (let at = index; at < sounding.length; at += 1) {
        const other = sounding[at];
        if (!other || beatOf(other) !== beatOf(event)) break;
        if (writtenLength(other.length).tuplet !== tuplet) continue;
        last = other;
        count += 1;
      }
      // Six sixteenths of a triplet's time are written as one group of six.
      const label = String(count > tuplet && count % tuplet === 0 ? count : tuplet);
      layout.brackets.push({
        key,
        fromX: x(event.beat) - 3,
        toX: x(last.beat) + 3,
        y: fromY + STEM_PX + 5,
        label,
      });
    }
  });
}

function stringName(pitch: string | number): string {
  return typeof pitch === "string" ? pitch.replace(/-?\d+$/, "") : String(pitch);
}
