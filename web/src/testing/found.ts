/** Notes with what is measured of them, to be said, marked and ranked, and the limits they are held against. */
import type { BendFound, Note, TakeMeasured, VibratoFound } from "~/api/client";
import { type SheetNote, tolerancesOf } from "~/ui/take/notes.math";
import { heardNote, type NotePart } from "./notes";

const ASKED = {
  plain_pitch_cents: 11,
  bend_error_cents: 12,
  hold_sd_cents: 13,
  beat_hz: 2,
  vibrato_return_cents: 14,
  vibrato_rate_cv: 0.2,
  vibrato_extent_cv: 0.25,
  level_db: 3,
  slur_deficit_db: 6,
  accent_lift_db: 4,
  length_fraction: 0.3,
  overlap_ms: 40,
  ring_db: -28,
  stop_ms: 250,
} as TakeMeasured["tolerances"];
export const LIMITS = tolerancesOf({ tolerances: ASKED });

export const noteOf = (part: object = {}): Note => heardNote(1, 0, part as NotePart).note;
export const bendOf = (part: Partial<BendFound> = {}) =>
  ({ kind: "bend", error_cents: -18, u: 1, target_cents: 200, verdict: "outside", ...part }) as BendFound;
export const vibratoOf = (part: Partial<VibratoFound> = {}) =>
  ({
    return_error_cents: 2,
    u_return: 1,
    rate_cv: 0.1,
    u_rate_cv: 0.02,
    extent_cv: 0.1,
    u_extent_cv: 0.02,
    region: [1.2, 1.8],
    verdict: "outside",
    ...part,
  }) as VibratoFound;
export const plain = (error: number | null, verdict = "outside") => ({
  pitch: { error_cents: error, u: 0.7, median_hz: 196, verdict },
});
export const late = { timing: { error_ms: 40, limit_ms: 20, verdict: "outside" } };
export const rings = {
  reasons: ["open_ring"],
  noise: { worst_ring_db: -20, string: 2, verdict: "outside", stop_verdict: null, decay_ms: null },
};
export const row = (note: Note, place = 1, event: object = {}): SheetNote => ({
  key: `${note.id}@${note.repeat}`,
  place,
  note,
  event: event as SheetNote["event"],
});
