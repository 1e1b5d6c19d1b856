/** Layout of a tab line: what stands where, in CSS pixels; pure, used by the drill page and the take sheet. */
import type { DrillContent, DrillEvent } from "~/api/client";
import { bendWords } from "~/lib/words";

export const STRING_GAP = 13;
export const TOP = 34;

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

export interface TabLayout {
  strings: { y: number; name: string }[];
  heightPx: number;
  numbers: TabNumber[];
  bends: TabBend[];
  rests: TabRest[];
  slurs: TabSlur[];
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
    heightPx: TOP + (count - 1) * STRING_GAP + 14,
    numbers: [],
    bends: [],
    rests: [],
    slurs: [],
  };
  for (let repeat = 0; repeat < repeats; repeat += 1) {
    drill.events.forEach((event, index) => {
      placeEvent(layout, drill, event, index, repeat, (beat) => xOfBeat(repeat * lengthBeats + beat), yOf);
    });
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
  const label = SLUR_LABELS[event.articulation];
  const before = drill.events[index - 1];
  if (label && before?.notes?.[0] && first) {
    layout.slurs.push({ key, fromX: x(before.beat), toX: at, y: yOf(first.string) - 7, label });
  }
}

function stringName(pitch: string | number): string {
  return typeof pitch === "string" ? pitch.replace(/-?\d+$/, "") : String(pitch);
}
