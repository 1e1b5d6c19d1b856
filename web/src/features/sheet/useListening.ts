import { useCallback, useState } from "react";
import { targetHz } from "~/lib/tune.math";
import type { Player } from "~/lib/usePlayer";
import type { SheetNote } from "~/ui/take/notes.math";

export type Heard = "note" | "tone" | "both";

export interface Listening {
  /** What sounds now, or null. */
  heard: Heard | null;
  listen: (what: Heard) => void;
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

/** Note, target tone or both of the selected note; asked again while it sounds, it stops. */
export function useListening(player: Player, selected: SheetNote | null): Listening {
  const [rate, setRate] = useState(1);
  const [last, setLast] = useState<Heard>("note");
  const note = selected?.note ?? null;
  const toneHz = note ? targetHz(note) : null;
  const onset = note?.onset_s ?? null;
  const end = note?.end_s ?? null;
  const heard = player.playing ? last : null;
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
  return { heard, listen, rate, setRate, hasNote: onset !== null, toneHz, failed: player.failed };
}
