import { useCallback, useMemo, useState } from "react";
import type { NoiseEvent } from "~/api/client";
import type { Axis } from "~/lib/axis.math";
import { targetHz } from "~/lib/tune.math";
import type { Passage, Player } from "~/lib/usePlayer";
import { centsWords } from "~/lib/words";
import { notesDuring, ringBands } from "~/ui/take/noise.math";
import { errorCents, type SheetNote } from "~/ui/take/notes.math";
import { beatsWithin, bestRepeat } from "~/ui/take/sheet.math";

/** context: with what stands around it; best: this repeat, then the cleanest; fixed: as played, then at the right pitch. */
export type Heard = "context" | "note" | "tone" | "both" | "ring" | "best" | "fixed";

export interface Listening {
  /** What sounds now, or null. */
  heard: Heard | null;
  listen: (what: Heard) => void;
  /** What can be listened to of the selected note. */
  can: Record<Heard, boolean>;
  /** The repeat that "best" compares with, from 1. */
  best: number | null;
  /** Why that one. */
  bestWords: string | null;
  rate: number;
  setRate: (rate: number) => void;
  loop: boolean;
  setLoop: (loop: boolean) => void;
  click: boolean;
  setClick: (click: boolean) => void;
  /** Whether there are beats to click. */
  hasBeats: boolean;
  failed: boolean;
}

export const RATES = [1, 0.75, 0.5, 0.35, 0.25];
const BEFORE_S = 0.06;
const AFTER_S = 0.08;
const CONTEXT_S = 0.7;
const TONE_ALONE_S = 1.5;
const AROUND_S = 0.6;
const ALONE_S = 0.1;
/** Less than this is nothing to correct. */
const LEAST_CENTS = 2;

/** An event as it was, with what stands around it; or only the string that rings. */
export function passageOf(event: NoiseEvent, notes: readonly SheetNote[], alone: boolean): Passage {
  const around = alone ? ALONE_S : AROUND_S;
  const passage = {
    from: Math.max(0, event.from_s - around),
    to: event.to_s + around,
    toneHz: null,
    withTake: true,
    rate: 1,
  };
  if (!alone || event.hz == null) return passage;
  const played = notesDuring(notes, event).flatMap(({ note }) => note.pitch?.median_hz ?? []);
  return { ...passage, bands: ringBands(event.hz, played), liftDb: -event.level_db };
}

/** Why a repeat is held beside this one: it is clean, or came nearest. */
export function bestWords(note: SheetNote["note"]): string {
  const error = errorCents(note);
  const near = error === null ? "" : `, ${centsWords(error)}`;
  const why = note.clean === "inside" ? "is the cleanest" : "came nearest, though not surely clean";
  return `Repeat ${note.repeat + 1} ${why}${near}.`;
}

export interface ListeningProps {
  player: Player;
  axis: Axis;
  beatsPerBar: number;
  selected: SheetNote | null;
  /** Seconds of a chosen range; it is heard instead of the note. */
  range: readonly [number, number] | null;
  notes: readonly SheetNote[];
  ring: NoiseEvent | null;
}

/** Every way to hear the selected note; asked again while it sounds, it stops. */
export function useListening({
  player,
  axis,
  beatsPerBar,
  selected,
  range,
  notes,
  ring,
}: ListeningProps): Listening {
  const [rate, setRate] = useState(1);
  const [loop, setLoop] = useState(false);
  const [click, setClick] = useState(false);
  const [last, setLast] = useState<Heard>("note");
  const note = selected?.note ?? null;
  const toneHz = note ? targetHz(note) : null;
  const best = useMemo(
    () => (selected ? bestRepeat(notes, selected, errorCents) : undefined),
    [notes, selected],
  );
  const heard = player.playing ? (player.playing.bands ? "ring" : last) : null;
  const hasBeats = axis.grid !== null;
  const has = note?.onset_s != null && note.end_s != null;
  const error = note && (note.status === "played" ? errorCents(note) : null);
  const can: Record<Heard, boolean> = {
    context: has || range !== null,
    note: has,
    tone: toneHz !== null,
    both: has && toneHz !== null,
    ring: ring !== null,
    best: has && best !== undefined,
    fixed: has && !note?.vibrato && error !== null && Math.abs(error) >= LEAST_CENTS,
  };
  const passage = useCallback(
    (what: Heard): Passage | null => {
      if (what === "ring") return ring && passageOf(ring, notes, true);
      if (what === "tone")
        return toneHz === null ? null : { from: 0, to: TONE_ALONE_S, toneHz, withTake: false, rate: 1 };
      const onset = note?.onset_s ?? null;
      const end = note?.end_s ?? null;
      const within =
        what === "context" && range ? range : onset !== null && end !== null ? [onset, end] : null;
      if (!within) return null;
      const [before, after] = what === "context" && !range ? [CONTEXT_S, CONTEXT_S] : [BEFORE_S, AFTER_S];
      const from = Math.max(0, (within[0] as number) - before);
      const to = (within[1] as number) + after;
      const plain = { from, to, toneHz: null, withTake: true, rate, loop };
      const clicks = click ? beatsWithin(axis, from, to, beatsPerBar) : undefined;
      if (what === "both") return { ...plain, toneHz, ...(clicks && { clicks }) };
      if (what === "best" && best?.note.onset_s != null && best.note.end_s != null) {
        const other = { from: Math.max(0, best.note.onset_s - BEFORE_S), to: best.note.end_s + AFTER_S };
        return { ...plain, pieces: [{ from, to }, other] };
      }
      if (what === "fixed" && error !== null) {
        const [a, b] = note?.bend?.plateau ?? [from, to];
        return {
          ...plain,
          pieces: [
            { from: a, to: b },
            { from: a, to: b, cents: -error },
          ],
        };
      }
      return { ...plain, ...(clicks && { clicks }) };
    },
    [ring, notes, toneHz, note, range, rate, loop, click, axis, beatsPerBar, best, error],
  );
  const listen = useCallback(
    (what: Heard) => {
      if (heard === what) {
        player.stop();
        return;
      }
      const next = passage(what);
      if (!next) return;
      setLast(what);
      player.play(next);
    },
    [player, heard, passage],
  );
  return {
    heard,
    listen,
    can,
    best: best ? best.note.repeat + 1 : null,
    bestWords: best ? bestWords(best.note) : null,
    rate,
    setRate,
    loop,
    setLoop,
    click,
    setClick,
    hasBeats,
    failed: player.failed,
  };
}
