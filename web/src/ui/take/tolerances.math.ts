/** Tolerances by their names in the contract, as a teacher calls them. */
import type { Mark } from "~/api/client";

export interface ToleranceName {
  name: string;
  measure: NonNullable<Mark["measure"]>;
  label: string;
  unit: string;
}

export const TOLERANCES: readonly ToleranceName[] = [
  { name: "plain_pitch_cents", measure: "pitch", label: "Plain notes", unit: "cents" },
  { name: "bend_error_cents", measure: "bend", label: "Bends", unit: "cents" },
  { name: "hold_sd_cents", measure: "bend", label: "Hold, spread", unit: "cents" },
  { name: "beat_hz", measure: "bend", label: "Unison beats", unit: "Hz" },
  { name: "vibrato_return_cents", measure: "vibrato", label: "Vibrato return", unit: "cents" },
  { name: "vibrato_rate_cv", measure: "vibrato", label: "Uneven in time", unit: "of 1" },
  { name: "vibrato_extent_cv", measure: "vibrato", label: "Uneven in width", unit: "of 1" },
  { name: "onset_ms", measure: "timing", label: "Onsets", unit: "ms" },
  { name: "level_db", measure: "level", label: "Volume", unit: "dB" },
  { name: "slur_deficit_db", measure: "level", label: "Slurs softer by", unit: "dB" },
  { name: "accent_lift_db", measure: "level", label: "Accents at least", unit: "dB" },
  { name: "length_fraction", measure: "length", label: "Length", unit: "of 1" },
  { name: "overlap_ms", measure: "length", label: "Under the next", unit: "ms" },
  { name: "ring_db", measure: "noise", label: "Rings under", unit: "dB" },
  { name: "stop_ms", measure: "noise", label: "Silent after", unit: "ms" },
];
