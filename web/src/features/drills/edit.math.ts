/** Changes to a drill that is being written: pure functions from a drill to a drill. */
import type { DrillContent, DrillEvent } from "~/api/client";
import { lengthBeatsOf, round } from "~/ui/tab/systems.math";

export type EditNote = DrillEvent["notes"][number];
export type Articulation = DrillEvent["articulation"];

export interface Cell {
  beat: number;
  string: number;
}

/** From a beat on and before another. */
export interface Span {
  from: number;
  to: number;
}

/** What was copied; beats count from its beginning. */
export interface Clip {
  length: number;
  events: DrillEvent[];
}

/** A change that cannot be made, in words. */
export class Refused extends Error {}

export const MOST_FRET = 24;
export const STEPS = [4, 2, 1, 1 / 2, 1 / 3, 1 / 4, 1 / 5, 1 / 6, 1 / 8];
const NEAR = 1e-4;

const starts = (event: DrillEvent, beat: number) => Math.abs(event.beat - beat) < NEAR;
const endOf = (event: DrillEvent) => event.beat + event.length;

export function eventAt(drill: DrillContent, beat: number): DrillEvent | undefined {
  return drill.events.find((event) => starts(event, beat));
}

/** The event that sounds or rests at a beat: one that starts there, else one that goes on over it. */
export function eventOver(drill: DrillContent, beat: number): DrillEvent | undefined {
  return (
    eventAt(drill, beat) ??
    drill.events.findLast((event) => event.beat < beat - NEAR && endOf(event) > beat + NEAR)
  );
}

export function noteAt(drill: DrillContent, cell: Cell): EditNote | undefined {
  return eventAt(drill, cell.beat)?.notes.find((note) => note.string === cell.string);
}

/** Write a fret, or a muted string (null), at a place; a chord note where something starts there already. */
export function writeNote(
  drill: DrillContent,
  cell: Cell,
  fret: number | null,
  length: number,
): DrillContent {
  if (fret !== null && (fret < 0 || fret > MOST_FRET)) throw new Refused(`There is no fret ${fret}.`);
  const note: EditNote = { string: cell.string, fret, muted: fret === null };
  const here = eventAt(drill, cell.beat);
  if (here && here.notes.length > 0) {
    const others = here.notes.filter((n) => n.string !== cell.string);
    const at = here.notes.findIndex((n) => n.string === cell.string);
    // The bent note stays first.
    const notes = at < 0 ? [...here.notes, note] : here.notes.with(at, note);
    return replaced(drill, here, {
      ...here,
      notes: others.length < here.notes.length ? notes : [...here.notes, note],
    });
  }
  const made: DrillEvent = {
    ...plain(freshId(drill), cell.beat, length),
    articulation: "pick",
    notes: [note],
  };
  return withEvent(drill, made);
}

/** Write a rest: silence that is judged. */
export function writeRest(drill: DrillContent, beat: number, length: number): DrillContent {
  const here = eventAt(drill, beat);
  const rest = plain(here?.id ?? freshId(drill), beat, here?.length ?? length);
  return here ? replaced(drill, here, rest) : withEvent(drill, rest);
}

/** Take away one note; the last of its event leaves a rest, and a rest leaves nothing. */
export function removeAt(drill: DrillContent, cell: Cell): DrillContent {
  const here = eventAt(drill, cell.beat);
  if (!here) return drill;
  if (here.notes.length === 0)
    return settled(
      drill,
      drill.events.filter((event) => event !== here),
    );
  const notes = here.notes.filter((note) => note.string !== cell.string);
  if (notes.length === here.notes.length) return drill;
  if (notes.length === 0) return replaced(drill, here, plain(here.id, here.beat, here.length));
  const bend = here.notes[0]?.string === cell.string ? null : here.bend;
  return replaced(drill, here, { ...here, notes, bend });
}

/** Change what an event says of itself. */
export function change(drill: DrillContent, beat: number, part: Partial<DrillEvent>): DrillContent {
  const here = eventAt(drill, beat);
  if (!here || here.notes.length === 0) throw new Refused("There is no note here.");
  return replaced(drill, here, { ...here, ...part });
}

/** Make an event longer or shorter; what follows stays where it is, so it ends there at the latest. */
export function resize(drill: DrillContent, beat: number, length: number): DrillContent {
  const here = eventAt(drill, beat);
  if (!here) throw new Refused("Nothing begins here.");
  const others = drill.events.filter((event) => event !== here);
  return withEvent({ ...drill, events: others }, { ...here, length: round(length) });
}

/** A bend of an event: its bent note comes first. */
export function bendNote(drill: DrillContent, cell: Cell, bend: DrillEvent["bend"]): DrillContent {
  const here = eventAt(drill, cell.beat);
  const note = here?.notes.find((n) => n.string === cell.string) ?? here?.notes[0];
  if (!here || !note) throw new Refused("There is no note here.");
  if (bend && (note.fret === null || note.muted)) throw new Refused("A muted string cannot be bent.");
  const notes = bend ? [note, ...here.notes.filter((n) => n !== note)] : here.notes;
  return replaced(drill, here, { ...here, notes, bend });
}

/** The nearest event that sounds what a bend reaches: what it is judged against. */
export function referenceFor(drill: DrillContent, event: DrillEvent): string | null {
  const bend = event.bend;
  const note = event.notes[0];
  if (!bend || !note || typeof bend.target_cents !== "number") return null;
  const wanted = (note.fret ?? 0) + bend.target_cents / 100;
  const found = drill.events.filter(
    (other) =>
      other !== event &&
      !other.bend &&
      other.notes.length === 1 &&
      other.notes[0]?.string === note.string &&
      other.notes[0]?.fret === wanted,
  );
  found.sort((a, b) => Math.abs(a.beat - event.beat) - Math.abs(b.beat - event.beat));
  return found[0]?.id ?? null;
}

// -- spans ---------------------------------------------------------------------------------------------------------

const within = (event: DrillEvent, span: Span) =>
  event.beat >= span.from - NEAR && event.beat < span.to - NEAR;

export function copySpan(drill: DrillContent, span: Span): Clip {
  return {
    length: round(span.to - span.from),
    events: drill.events
      .filter((event) => within(event, span))
      .map((event) => ({
        ...event,
        beat: round(event.beat - span.from),
        length: round(Math.min(event.length, span.to - event.beat)),
      })),
  };
}

/** Empty a span: what begins in it goes, what sounds into it ends there. */
export function clearSpan(drill: DrillContent, span: Span): DrillContent {
  const events = drill.events
    .filter((event) => !within(event, span))
    .map((event) =>
      event.beat < span.from && endOf(event) > span.from + NEAR && !event.let_ring
        ? { ...event, length: round(span.from - event.beat) }
        : event,
    );
  return settled(drill, events);
}

/** Put a copy in the place of what is there. */
export function paste(drill: DrillContent, at: number, clip: Clip): DrillContent {
  const cleared = clearSpan(drill, { from: at, to: at + clip.length });
  const names = new Map<string, string>();
  let next = freshNumber(cleared);
  for (const event of clip.events) {
    names.set(event.id, `e${next}`);
    next += 1;
  }
  const copies = clip.events.map((event) => ({
    ...event,
    id: names.get(event.id) as string,
    beat: round(event.beat + at),
    bend: event.bend && {
      ...event.bend,
      reference: event.bend.reference && (names.get(event.bend.reference) ?? event.bend.reference),
    },
  }));
  return settled(cleared, [...cleared.events, ...copies]);
}

/** Play a span once more, right behind it; what stood there moves on. */
export function repeatSpan(drill: DrillContent, span: Span): DrillContent {
  const clip = copySpan(drill, span);
  return paste(openTime(drill, span.to, clip.length), span.to, clip);
}

/** Make room: everything from a beat on comes later. */
export function openTime(drill: DrillContent, at: number, length: number): DrillContent {
  const events = drill.events.map((event) =>
    event.beat >= at - NEAR ? { ...event, beat: round(event.beat + length) } : event,
  );
  return settled(drill, events);
}

/** Take time out: what begins in it goes, what follows comes earlier. */
export function closeTime(drill: DrillContent, span: Span): DrillContent {
  const cleared = clearSpan(drill, span);
  const events = cleared.events.map((event) =>
    event.beat >= span.to - NEAR ? { ...event, beat: round(event.beat - (span.to - span.from)) } : event,
  );
  return settled(cleared, events);
}

/** Every note of a span so many frets higher; refused where one would leave the fretboard. */
export function transpose(drill: DrillContent, span: Span, frets: number): DrillContent {
  return eachNote(drill, span, (note) => {
    if (note.fret === null) return note;
    const fret = note.fret + frets;
    if (fret < 0 || fret > MOST_FRET) throw new Refused(`String ${note.string} would need fret ${fret}.`);
    return { ...note, fret };
  });
}

/** The same pitches on the neighbouring strings; refused where the interval does not allow it. */
export function moveStrings(drill: DrillContent, span: Span, by: 1 | -1, openMidi: number[]): DrillContent {
  return eachNote(drill, span, (note) => {
    const string = note.string + by;
    const from = openMidi[note.string - 1];
    const to = openMidi[string - 1];
    if (from === undefined || to === undefined) throw new Refused(`There is no string ${string}.`);
    if (note.fret === null) return { ...note, string };
    const fret = note.fret + from - to;
    if (!Number.isInteger(fret) || fret < 0 || fret > MOST_FRET)
      throw new Refused(
        `String ${string} does not have the pitch of string ${note.string}, fret ${note.fret}.`,
      );
    return { ...note, string, fret };
  });
}

function eachNote(drill: DrillContent, span: Span, move: (note: EditNote) => EditNote): DrillContent {
  const events = drill.events.map((event) =>
    within(event, span) && event.notes.length > 0 ? { ...event, notes: event.notes.map(move) } : event,
  );
  if (events.every((event, i) => event === drill.events[i])) throw new Refused("There are no notes to move.");
  return settled(drill, events);
}

// -- keeping the drill whole ---------------------------------------------------------------------------------------

function plain(id: string, beat: number, length: number): DrillEvent {
  return {
    id,
    beat: round(beat),
    length: round(length),
    articulation: "none",
    notes: [],
    bend: null,
    vibrato: null,
    accent: false,
    let_ring: false,
    voice: 1,
  };
}

/** Put an event among the others: it ends at the next one, those before it end at it, and a rest closes around it. */
function withEvent(drill: DrillContent, made: DrillEvent): DrillContent {
  const next = drill.events.find((event) => event.beat > made.beat + NEAR && event.notes.length > 0);
  const room = next ? next.beat - made.beat : Number.POSITIVE_INFINITY;
  const event = { ...made, length: round(made.let_ring ? made.length : Math.min(made.length, room)) };
  const events: DrillEvent[] = [];
  let number = freshNumber(drill) + 1;
  for (const other of drill.events) {
    const rest = other.notes.length === 0;
    const before = other.beat < event.beat - NEAR;
    const reaches = endOf(other) > event.beat + NEAR && !(other.let_ring && !rest);
    // A rest that begins under the new event gives way to it.
    const under = rest && !before && other.beat < endOf(event) - NEAR;
    if (!(before && reaches) && !under) {
      events.push(other);
      continue;
    }
    if (before) events.push({ ...other, length: round(event.beat - other.beat) });
    const left = endOf(other) - endOf(event);
    if (rest && left > NEAR) {
      events.push(plain(`e${number}`, endOf(event), left));
      number += 1;
    }
  }
  return settled(drill, [...events, event]);
}

function replaced(drill: DrillContent, old: DrillEvent, now: DrillEvent): DrillContent {
  return settled(
    drill,
    drill.events.map((event) => (event === old ? now : event)),
  );
}

/** Sorted, without references to what is gone, and never empty. */
function settled(drill: DrillContent, events: DrillEvent[]): DrillContent {
  const sorted = events.every((event, i) => i === 0 || (events[i - 1] as DrillEvent).beat <= event.beat)
    ? events
    : [...events].sort((a, b) => a.beat - b.beat);
  const sounding = new Set(sorted.filter((event) => event.notes.length > 0).map((event) => event.id));
  const kept = sorted.map((event) =>
    event.bend?.reference && !sounding.has(event.bend.reference)
      ? { ...event, bend: { ...event.bend, reference: null } }
      : event,
  );
  if (kept.length > 0) return { ...drill, events: kept };
  return { ...drill, events: [plain("e1", 0, drill.tempo?.beats_per_bar ?? 4)] };
}

function freshNumber(drill: DrillContent): number {
  return 1 + Math.max(0, ...drill.events.map((event) => Number(/^e(\d+)$/.exec(event.id)?.[1] ?? 0)));
}

function freshId(drill: DrillContent): string {
  return `e${freshNumber(drill)}`;
}

// -- moving about --------------------------------------------------------------------------------------------------

/** The next place of the grid; what begins off the grid is met on the way. */
export function stepFrom(drill: DrillContent, beat: number, step: number, way: 1 | -1): number {
  const onGrid = way > 0 ? Math.floor(beat / step + NEAR) + 1 : Math.ceil(beat / step - NEAR) - 1;
  let next = round(Math.max(0, onGrid * step));
  for (const event of drill.events) {
    const between =
      way > 0
        ? event.beat > beat + NEAR && event.beat < next - NEAR
        : event.beat < beat - NEAR && event.beat > next + NEAR;
    if (between) next = event.beat;
  }
  return next;
}

/** Bars on the sheet: what is written, and one more to go on. */
export function sheetBeats(drill: DrillContent): number {
  const bar = drill.tempo?.beats_per_bar ?? 4;
  return Math.ceil(lengthBeatsOf(drill) / bar - NEAR) * bar + bar;
}

// -- undo ----------------------------------------------------------------------------------------------------------

export interface History {
  past: DrillContent[];
  now: DrillContent;
  future: DrillContent[];
}

const MOST_STEPS_BACK = 300;

export function changed(history: History, now: DrillContent): History {
  if (now === history.now) return history;
  return { past: [...history.past.slice(-MOST_STEPS_BACK), history.now], now, future: [] };
}

export function undone(history: History): History {
  const last = history.past.at(-1);
  if (!last) return history;
  return { past: history.past.slice(0, -1), now: last, future: [history.now, ...history.future] };
}

export function redone(history: History): History {
  const [next, ...future] = history.future;
  if (!next) return history;
  return { past: [...history.past, history.now], now: next, future };
}
