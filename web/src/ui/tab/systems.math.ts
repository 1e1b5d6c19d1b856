/** A drill on a page: lines of whole bars that fit a width, each laid out by `layoutTab`. Pure. */
import type { DrillContent, DrillEvent } from "~/api/client";
import type { BeatLine } from "~/lib/axis.math";
import { layoutTab, STRING_GAP, type TabLayout, TOP } from "./tab.math";

export const LEFT_PX = 40;
export const RIGHT_PX = 20;
export const SYSTEM_GAP_PX = 10;
const PX_PER_BEAT = 78;
const LEAST_PX_PER_NOTE = 26;
const LEAST_BAR_OFFSET_PX = 8;
const NEAR = 1e-4;

export interface TabSystem {
  index: number;
  fromBeat: number;
  toBeat: number;
  layout: TabLayout;
  widthPx: number;
  lines: BeatLine[];
  /** What the layout was made of, to know it again. */
  events: DrillEvent[];
}

export interface TabSheet {
  systems: TabSystem[];
  perBeat: number;
  barOffsetPx: number;
  /** From the top of one line of bars to the next. */
  pitchPx: number;
  perBar: number;
}

/** Bars of four where there is no tempo. */
export function beatsPerBar(content: DrillContent): number {
  return content.tempo?.beats_per_bar ?? 4;
}

/** One repeat, rounded up to a whole bar where there is a tempo, as the core counts it. */
export function lengthBeatsOf(content: DrillContent): number {
  const end = Math.max(0, ...content.events.map((event) => event.beat + event.length));
  if (!content.tempo) return end;
  const bar = content.tempo.beats_per_bar;
  return Math.ceil(Math.round(end * 1e6) / Math.round(bar * 1e6)) * bar;
}

/** before: an earlier sheet of the same drill; lines of it that are still true are taken over as they are. */
export function layoutSheet(
  content: DrillContent,
  lengthBeats: number,
  widthPx: number,
  before?: TabSheet,
): TabSheet {
  const shortest = content.events.reduce((least, event) => Math.min(least, event.length), 1);
  const perBeat = Math.max(PX_PER_BEAT, LEAST_PX_PER_NOTE / Math.max(shortest, 1 / 16));
  const barOffsetPx = Math.max(LEAST_BAR_OFFSET_PX, Math.min(17, (shortest * perBeat) / 2));
  const perBar = beatsPerBar(content);
  const bars = Math.max(1, Math.ceil(lengthBeats / perBar - NEAR));
  const perSystem = Math.max(1, Math.floor((widthPx - LEFT_PX - RIGHT_PX) / (perBar * perBeat)));
  const strings = content.tuning.length;
  const pitchPx = TOP + (strings - 1) * STRING_GAP + 44 + SYSTEM_GAP_PX;
  const same = before && before.perBeat === perBeat && before.perBar === perBar && before.pitchPx === pitchPx;
  const systems: TabSystem[] = [];
  let first = 0;
  for (let bar = 0; bar < bars; bar += perSystem) {
    const fromBeat = bar * perBar;
    const toBeat = Math.min(bars, bar + perSystem) * perBar;
    while (first < content.events.length && (content.events[first] as DrillEvent).beat < fromBeat - NEAR)
      first += 1;
    let last = first;
    while (last < content.events.length && (content.events[last] as DrillEvent).beat < toBeat - NEAR)
      last += 1;
    // Slurs come from notes before, which therefore count as well.
    const events = [...lastOnStrings(content.events, first), ...content.events.slice(first, last)];
    const index = systems.length;
    const old = same ? before.systems[index] : undefined;
    if (old && old.fromBeat === fromBeat && old.toBeat === toBeat && sameEvents(old.events, events)) {
      systems.push(old);
      continue;
    }
    const x = (beat: number) => LEFT_PX + (beat - fromBeat) * perBeat;
    const count = Math.round((toBeat - fromBeat) / perBar);
    systems.push({
      index,
      fromBeat,
      toBeat,
      events,
      layout: layoutTab({ ...content, events }, lengthBeats, 1, x, { from: fromBeat, to: toBeat }, true),
      widthPx: LEFT_PX + (toBeat - fromBeat) * perBeat + RIGHT_PX,
      lines: Array.from({ length: count + 1 }, (_, i) => ({
        x: x(fromBeat + i * perBar),
        kind: bar + i === bars ? "repeat" : "bar",
        label: i < count ? String(bar + i + 1) : "",
      })),
    });
  }
  return { systems, perBeat, barOffsetPx, pitchPx, perBar };
}

function lastOnStrings(events: DrillEvent[], before: number): DrillEvent[] {
  const found = new Map<number, DrillEvent>();
  for (let i = Math.max(0, before - 24); i < before; i += 1) {
    const event = events[i] as DrillEvent;
    for (const note of event.notes ?? []) found.set(note.string, event);
  }
  return [...new Set(found.values())].sort((a, b) => a.beat - b.beat);
}

function sameEvents(a: DrillEvent[], b: DrillEvent[]): boolean {
  return a.length === b.length && a.every((event, i) => event === b[i]);
}

export interface SheetPlace {
  system: number;
  x: number;
  y: number;
}

/** Where a beat stands; y is the top of its line of bars. */
export function placeOf(sheet: TabSheet, beat: number): SheetPlace {
  const found = sheet.systems.findIndex((s) => beat < s.toBeat - NEAR);
  const system = found < 0 ? sheet.systems.length - 1 : found;
  const from = sheet.systems[system]?.fromBeat ?? 0;
  return { system, x: LEFT_PX + (beat - from) * sheet.perBeat, y: system * sheet.pitchPx };
}

/** The beat and string at a point of the sheet, the beat brought to a grid of `step`. */
export function pointAt(
  sheet: TabSheet,
  x: number,
  y: number,
  step: number,
  strings: number,
): { beat: number; string: number } {
  const index = Math.min(sheet.systems.length - 1, Math.max(0, Math.floor(y / sheet.pitchPx)));
  const system = sheet.systems[index] as TabSystem;
  const raw = (x - LEFT_PX) / sheet.perBeat;
  const inside = Math.min(system.toBeat - system.fromBeat - step, Math.max(0, Math.round(raw / step) * step));
  const row = Math.round((y - index * sheet.pitchPx - TOP) / STRING_GAP) + 1;
  return {
    beat: round(system.fromBeat + Math.max(0, inside)),
    string: Math.min(strings, Math.max(1, row)),
  };
}

/** Beats as the core keeps them. */
export function round(beat: number): number {
  return Math.round(beat * 1e6) / 1e6;
}
