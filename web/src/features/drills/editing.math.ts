/** The editor's state, and what each key does to it. Pure. */
import type { DrillContent, DrillEvent } from "~/api/client";
import { round } from "~/ui/tab/systems.math";
import {
  type Articulation,
  bendNote,
  type Cell,
  type Clip,
  change,
  changed,
  clearSpan,
  closeTime,
  copySpan,
  eventAt,
  eventOver,
  type History,
  MOST_FRET,
  moveStrings,
  noteAt,
  openTime,
  paste,
  Refused,
  redone,
  referenceFor,
  removeAt,
  repeatSpan,
  resize,
  type Span,
  STEPS,
  sheetBeats,
  stepFrom,
  transpose,
  undone,
  writeNote,
  writeRest,
} from "./edit.math";

export interface EditState {
  history: History;
  cell: Cell;
  /** Where a selection began, or null. */
  anchor: number | null;
  step: number;
  clip: Clip | null;
  /** What could not be done, or was. */
  message: string;
  /** A fret being typed: two digits in quick succession are one number. */
  typed: { cell: Cell; text: string; at: number } | null;
}

export interface Press {
  key: string;
  ctrl?: boolean;
  shift?: boolean;
  alt?: boolean;
  /** Milliseconds. */
  now: number;
}

const SECOND_DIGIT_MS = 900;
const SIGNS: Record<string, Articulation> = {
  h: "hammer",
  p: "pull",
  t: "tap",
  l: "slide",
  s: "strum",
  j: "repluck",
};

export const EDIT_KEYS: [string, string][] = [
  ["← →", "a step back or on; with Ctrl a bar"],
  ["↑ ↓", "the string above or below"],
  ["Shift ← →", "select; Esc lets go"],
  ["[ ]", "a longer or shorter step (thirds and fifths are tuplets)"],
  ["0–9", "write a fret; two digits in quick succession are one number"],
  ["X", "a string struck and muted"],
  ["R", "a rest: silence that is judged"],
  ["Delete", "take the note away, then its rest"],
  [", .", "shorter or longer by a step"],
  ["H P T L", "hammer-on, pull-off, tap, slide; again for picked"],
  ["S J", "strummed; a bend struck again"],
  ["B", "bend: full, half, three frets, curl, none"],
  ["V", "vibrato"],
  ["A I", "accent; let it ring"],
  ["Ctrl ↑ ↓", "a fret up or down"],
  ["Alt ↑ ↓", "the same pitch on the string above or below"],
  ["Ctrl C X V", "copy, cut, put in"],
  ["Ctrl D", "play the selection once more behind it"],
  ["Ctrl Enter", "put in an empty bar; with Shift take this bar out"],
  ["Ctrl Z Y", "undo, redo"],
  ["Space", "listen from here, or stop"],
];

export function opened(drill: DrillContent): EditState {
  const first = drill.events.find((event) => event.notes.length > 0);
  return {
    history: { past: [], now: drill, future: [] },
    cell: { beat: first?.beat ?? 0, string: first?.notes[0]?.string ?? Math.min(3, drill.tuning.length) },
    anchor: null,
    step: 1,
    clip: null,
    message: "",
    typed: null,
  };
}

/** What the keys that work on several notes work on: the selection, else the step at the cursor. */
export function spanOf(state: EditState): Span {
  const { cell, anchor, step, history } = state;
  if (anchor === null) {
    const here = eventAt(history.now, cell.beat);
    return { from: cell.beat, to: round(cell.beat + (here ? Math.min(here.length, step) : step)) };
  }
  const [from, last] = anchor < cell.beat ? [anchor, cell.beat] : [cell.beat, anchor];
  const end = eventAt(history.now, last);
  return { from, to: round(last + Math.max(step, end && end.length < 4 ? end.length : 0)) };
}

/** A change of the drill, undoable; a refusal is said and changes nothing. */
export function edit(state: EditState, make: (drill: DrillContent) => DrillContent, message = ""): EditState {
  try {
    return { ...state, history: changed(state.history, make(state.history.now)), message };
  } catch (error) {
    if (error instanceof Refused) return { ...state, message: error.message };
    throw error;
  }
}

export function moveTo(state: EditState, cell: Cell, extend: boolean): EditState {
  const { now } = state.history;
  const most = sheetBeats(now) - state.step;
  const beat = round(Math.min(Math.max(0, cell.beat), Math.max(0, most)));
  const string = Math.min(now.tuning.length, Math.max(1, cell.string));
  const anchor = extend ? (state.anchor ?? state.cell.beat) : null;
  return { ...state, cell: { beat, string }, anchor, message: "", typed: null };
}

/** The state after a key, or null if the key means nothing here. */
export function press(
  state: EditState,
  { key, ctrl, shift, alt, now }: Press,
  openMidi: number[],
): EditState | null {
  const drill = state.history.now;
  const { cell, step } = state;
  const small = key.length === 1 ? key.toLowerCase() : key;
  if (ctrl) return pressWithCtrl(state, small, shift === true);
  if (alt) {
    const by = small === "ArrowUp" ? -1 : small === "ArrowDown" ? 1 : null;
    if (by === null) return null;
    const moved = edit(state, (d) => moveStrings(d, spanOf(state), by, openMidi));
    return moved.history === state.history
      ? moved
      : { ...moved, cell: { ...cell, string: cell.string + by } };
  }
  if (/^\d$/.test(small)) return typeDigit(state, small, now);
  if (small === "ArrowLeft" || small === "ArrowRight" || small === "Enter") {
    const way = small === "ArrowLeft" ? -1 : 1;
    return moveTo(state, { ...cell, beat: stepFrom(drill, cell.beat, step, way) }, shift === true);
  }
  if (small === "ArrowUp" || small === "ArrowDown") {
    return moveTo(state, { ...cell, string: cell.string + (small === "ArrowUp" ? -1 : 1) }, shift === true);
  }
  if (small === "Home") return moveTo(state, { ...cell, beat: 0 }, shift === true);
  if (small === "End")
    return moveTo(state, { ...cell, beat: drill.events.at(-1)?.beat ?? 0 }, shift === true);
  if (small === "Escape") return state.anchor === null ? null : { ...state, anchor: null, message: "" };
  if (small === "[" || small === "]") return otherStep(state, small === "]" ? 1 : -1);
  if (small === "x") return edit(state, (d) => writeNote(d, cell, null, step));
  if (small === "r") return edit(state, (d) => writeRest(d, cell.beat, step));
  if (small === "Delete" || small === "Backspace") {
    if (state.anchor !== null) return edit({ ...state, anchor: null }, (d) => clearSpan(d, spanOf(state)));
    return edit(state, (d) => removeAt(d, cell));
  }
  if (small === "." || small === ",") {
    const here = eventAt(drill, cell.beat);
    if (!here) return { ...state, message: "Nothing begins here." };
    const length = here.length + (small === "." ? step : -step);
    if (length < 1 / 32) return { ...state, message: "It cannot be shorter by this step." };
    return edit(state, (d) => resize(d, cell.beat, length));
  }
  return pressSign(state, small);
}

function pressWithCtrl(state: EditState, key: string, shift: boolean): EditState | null {
  const span = spanOf(state);
  const perBar = state.history.now.tempo?.beats_per_bar ?? 4;
  const bar = Math.floor(state.cell.beat / perBar + 1e-6) * perBar;
  switch (key) {
    case "z":
      return {
        ...state,
        history: shift ? redone(state.history) : undone(state.history),
        message: "",
        typed: null,
      };
    case "y":
      return { ...state, history: redone(state.history), message: "", typed: null };
    case "c":
      return { ...state, clip: copySpan(state.history.now, span), message: "Copied." };
    case "x":
      return edit(
        { ...state, clip: copySpan(state.history.now, span), anchor: null },
        (d) => clearSpan(d, span),
        "Cut.",
      );
    case "v": {
      const { clip } = state;
      if (!clip) return { ...state, message: "Nothing has been copied yet." };
      const put = edit({ ...state, anchor: null }, (d) => paste(d, state.cell.beat, clip));
      return { ...put, cell: { ...state.cell, beat: round(state.cell.beat + clip.length) } };
    }
    case "d":
      return edit(state, (d) => repeatSpan(d, span), "Repeated.");
    case "ArrowUp":
    case "ArrowDown":
      return edit(state, (d) => transpose(d, span, key === "ArrowUp" ? 1 : -1));
    case "ArrowLeft":
      return moveTo(state, { ...state.cell, beat: state.cell.beat > bar ? bar : bar - perBar }, shift);
    case "ArrowRight":
      return moveTo(state, { ...state.cell, beat: bar + perBar }, shift);
    case "Enter":
      return shift
        ? edit(state, (d) => closeTime(d, { from: bar, to: bar + perBar }), "Bar taken out.")
        : edit(state, (d) => openTime(d, bar, perBar), "Bar put in.");
    default:
      return null;
  }
}

function typeDigit(state: EditState, digit: string, now: number): EditState {
  const { typed, cell } = state;
  const again =
    typed &&
    typed.cell.beat === cell.beat &&
    typed.cell.string === cell.string &&
    now - typed.at < SECOND_DIGIT_MS &&
    Number(typed.text + digit) <= MOST_FRET;
  const text = again ? typed.text + digit : digit;
  const written = edit(state, (d) => writeNote(d, cell, Number(text), state.step));
  return { ...written, typed: { cell, text, at: now } };
}

function otherStep(state: EditState, by: 1 | -1): EditState {
  const at = STEPS.findIndex((s) => Math.abs(s - state.step) < 1e-4);
  const step = STEPS[Math.min(STEPS.length - 1, Math.max(0, at + by))] as number;
  return { ...state, step, message: "" };
}

const BENDS = [
  { kind: "bend", target_cents: 200 },
  { kind: "bend", target_cents: 100 },
  { kind: "bend", target_cents: 300 },
  { kind: "curl", target_cents: [20, 80] as [number, number] },
] as const;

function pressSign(state: EditState, key: string): EditState | null {
  const { cell } = state;
  const here = eventAt(state.history.now, cell.beat);
  if (key in SIGNS) {
    const sign = SIGNS[key] as Articulation;
    return edit(state, (d) =>
      change(d, cell.beat, { articulation: here?.articulation === sign ? "pick" : sign }),
    );
  }
  if (key === "a") return edit(state, (d) => change(d, cell.beat, { accent: !here?.accent }));
  if (key === "i") return edit(state, (d) => change(d, cell.beat, { let_ring: !here?.let_ring }));
  if (key === "v") {
    const line = state.history.now.school.vibrato_return;
    return edit(state, (d) =>
      change(d, cell.beat, {
        vibrato: here?.vibrato
          ? null
          : { return: here?.bend ? "top" : line, rate_hz: null, extent_cents: null },
      }),
    );
  }
  if (key === "b") {
    const at = BENDS.findIndex(
      (b) => here?.bend?.kind === b.kind && String(here.bend.target_cents) === String(b.target_cents),
    );
    const next = here?.bend && at < 0 ? undefined : BENDS[at + 1];
    return edit(state, (d) =>
      withReference(d, cell, next ? ({ ...next, reference: null } as DrillEvent["bend"]) : null),
    );
  }
  return null;
}

/** A bend, judged against the fretted note of the drill that sounds its target, where there is one. */
export function withReference(drill: DrillContent, cell: Cell, bend: DrillEvent["bend"]): DrillContent {
  const bent = bendNote(drill, cell, bend);
  const event = eventAt(bent, cell.beat);
  if (!event?.bend) return bent;
  return bendNote(bent, cell, { ...event.bend, reference: referenceFor(bent, event) });
}

/** A place in words, counted from 1, as the core says it. */
export function barAndBeat(beat: number, perBar: number): string {
  const bar = Math.floor(beat / perBar + 1e-6);
  return `bar ${bar + 1}, beat ${Math.round((beat - bar * perBar) * 1000) / 1000 + 1}`;
}

/** What stands at the cursor, for those who do not see it. */
export function spokenPlace(state: EditState): string {
  const { cell, history } = state;
  const at = barAndBeat(cell.beat, history.now.tempo?.beats_per_bar ?? 4);
  const place = `B${at.slice(1)}, string ${cell.string}`;
  const note = noteAt(history.now, cell);
  const over = eventOver(history.now, cell.beat);
  if (note) return `${place}: ${note.muted ? "muted" : `fret ${note.fret}`}`;
  if (!over) return `${place}: nothing asked`;
  return `${place}: ${over.notes.length === 0 ? "rest" : "empty"}`;
}

/** A step as teachers call it. */
export function stepWords(step: number): string {
  const names: [number, string][] = [
    [4, "4 beats"],
    [2, "2 beats"],
    [1, "1 beat"],
    [1 / 2, "½ beat"],
    [1 / 3, "⅓ beat (triplet)"],
    [1 / 4, "¼ beat"],
    [1 / 5, "⅕ beat (five to the beat)"],
    [1 / 6, "⅙ beat (six to the beat)"],
    [1 / 8, "⅛ beat"],
  ];
  return names.find(([value]) => Math.abs(value - step) < 1e-4)?.[1] ?? `${step} beats`;
}
