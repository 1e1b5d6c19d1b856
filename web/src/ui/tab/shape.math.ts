/** Where a drill's beginning stands in a picture the size of a thumb. */
import type { DrillRead } from "~/api/client";

type Shape = DrillRead["shape"];

const GAP = 7;
const TOP = 9;
const FIRST_X = 8;
const MOST_STEP = 17;
const LEAST_STEP = 13;

export interface ShapeLaid {
  widthPx: number;
  heightPx: number;
  lines: number[];
  notes: { key: string; x: number; y: number; text: string }[];
  /** What is done to a note: an arc up for a bend, a wave for a vibrato, a bow or a stroke from the note before. */
  arcs: { key: string; path: string }[];
}

/** As many notes as there is room for, one after the other; those struck together stand above each other; low: only the strings that sound. */
export function shapeLayout(shape: Shape, strings: number, widthPx: number, low = false): ShapeLaid {
  const beats = [...new Set(shape.map(([beat]) => beat))];
  const room = Math.max(1, Math.floor((widthPx - 2 * FIRST_X) / LEAST_STEP) + 1);
  const shown = beats.slice(0, room);
  const step = Math.min(MOST_STEP, (widthPx - 2 * FIRST_X) / Math.max(1, shown.length - 1));
  const sounding = shape.map(([, string]) => string);
  const top = low && sounding.length > 0 ? Math.min(...sounding) : 1;
  const last = low && sounding.length > 0 ? Math.max(...sounding) : strings;
  const yOf = (string: number) => TOP + (string - top) * GAP;
  const laid: ShapeLaid = {
    widthPx: Math.min(widthPx, 2 * FIRST_X + (shown.length - 1) * step + (shown.length === 1 ? 24 : 6)),
    heightPx: TOP + (last - top) * GAP + 6,
    lines: Array.from({ length: last - top + 1 }, (_, i) => yOf(top + i)),
    notes: [],
    arcs: [],
  };
  const before = new Map<number, number>();
  for (const [beat, string, fret, sign] of shape) {
    const at = shown.indexOf(beat);
    if (at < 0) continue;
    const x = FIRST_X + at * step;
    const y = yOf(string);
    const key = `${beat}/${string}`;
    laid.notes.push({ key, x, y, text: fret === null ? "×" : String(fret) });
    const from = before.get(string);
    const path = signPath(sign, x, y, from);
    if (path) laid.arcs.push({ key, path });
    before.set(string, x);
  }
  return laid;
}

function signPath(sign: Shape[number][3], x: number, y: number, from: number | undefined): string | null {
  if (sign === "bend") return `M${x + 5} ${y - 1}q5 0 5 -7m-2 2.5l2 -2.5l2 2.5`;
  if (sign === "vibrato") return `M${x - 5} ${y - 6.5}q1.7 -3 3.4 0t3.4 0t3.4 0`;
  if (from === undefined) return null;
  if (sign === "slur") return `M${from + 2} ${y - 5}Q${(from + x) / 2} ${y - 9} ${x - 2} ${y - 5}`;
  if (sign === "slide") return `M${from + 6} ${y + 2}L${x - 6} ${y - 2}`;
  return null;
}
