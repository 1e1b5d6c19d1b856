import { useCallback, useState } from "react";
import type { NoiseEvent } from "~/api/client";
import { targetHz } from "~/lib/tune.math";
import type { Passage, Player } from "~/lib/usePlayer";
import { notesDuring, ringBands } from "~/ui/take/noise.math";
import type { SheetNote } from "~/ui/take/notes.math";

export type Heard = "note" | "tone" | "both";

export interface Listening {
  /** What sounds now, or null. */
  heard: Heard | null;
  listen: (what: Heard) => void;
  /** Only the string that rings under the note; null where none does. */
  listenToRing: (() => void) | null;
  rate: number;
  setRate: (rate: number) => void;
  hasNote: boolean;
  toneHz: number | null;
  failed: boolean;
}

export const RATES = [1, 0.75, 0.5];
const BEFORE_S = 0.06;
const AFTER_S = 0.08;
const TONE_ALONE_S = 1.5;

const AROUND_S = 0.6;
const ALONE_S = 0.1;

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

/** Note, target tone or both of the selected note; asked again while it sounds, it stops. */
export function useListening(
  player: Player,
  selected: SheetNote | null,
  notes: readonly SheetNote[],
  ring: NoiseEvent | null,
): Listening {
  const [rate, setRate] = useState(1);
  const [last, setLast] = useState<Heard>("note");
  const note = selected?.note ?? null;
  const toneHz = note ? targetHz(note) : null;
  const onset = note?.onset_s ?? null;
  const end = note?.end_s ?? null;
  const heard = player.playing && !player.playing.bands ? last : null;
  const listen = useCallback(
    (what: Heard) => {
      if (heard === what) {
        player.stop();
        return;
      }
      const alone = what === "tone" || onset === null || end === null;
      if (what !== "note" && toneHz === null) return;
      if (what === "note" && alone) return;
      setLast(what);
      player.play({
        from: alone ? 0 : Math.max(0, onset - BEFORE_S),
        to: alone ? TONE_ALONE_S : end + AFTER_S,
        toneHz: what === "note" ? null : toneHz,
        withTake: !alone,
        rate: alone ? 1 : rate,
      });
    },
    [player, heard, onset, end, toneHz, rate],
  );
  const listenToRing = useCallback(() => {
    if (player.playing?.bands) player.stop();
    else if (ring) player.play(passageOf(ring, notes, true));
  }, [player, ring, notes]);
  return {
    heard,
    listen,
    listenToRing: ring ? listenToRing : null,
    rate,
    setRate,
    hasNote: onset !== null,
    toneHz,
    failed: player.failed,
  };
}
