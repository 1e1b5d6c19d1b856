/** A guitar's form: text as typed, and the description it stands for. Pure. */
import type { GuitarContent, GuitarKind } from "~/api/client";
import { gaugeMm, gaugeText, type LengthUnit, lengthMm, lengthText } from "~/lib/lengths.math";
import { numberIn } from "~/lib/typed";

export interface StringForm {
  pitch: string;
  gauge: string;
  wound: boolean;
  unitWeight: string;
}

export interface GuitarForm {
  name: string;
  kind: GuitarKind;
  unit: LengthUnit;
  strings: StringForm[];
  scale: string;
  capo: string;
  a4: string;
  actionTreble: string;
  actionBass: string;
  radius: string;
  frets: string;
  notes: string;
}

export function formOf(name: string, guitar: GuitarContent, unit: LengthUnit): GuitarForm {
  return {
    name,
    kind: guitar.kind,
    unit,
    strings: guitar.strings.map((string, i) => ({
      pitch: String(guitar.tuning[i]),
      gauge: gaugeText(string.gauge_mm, unit),
      wound: string.wound,
      unitWeight: string.unit_weight_g_per_m == null ? "" : String(string.unit_weight_g_per_m),
    })),
    scale: lengthText(guitar.scale_mm, unit),
    capo: String(guitar.capo),
    a4: String(guitar.a4_hz),
    actionTreble: lengthText(guitar.action_treble_mm ?? null, unit),
    actionBass: lengthText(guitar.action_bass_mm ?? null, unit),
    radius: lengthText(guitar.radius_mm ?? null, unit),
    frets: String(guitar.frets),
    notes: guitar.notes,
  };
}

/** The first field that may be left empty but holds something that is no number; null where there is none. */
export function unreadable(form: GuitarForm): string | null {
  const optional: [string, string][] = [
    ...form.strings.map((s, i): [string, string] => [`Unit weight of string ${i + 1}`, s.unitWeight]),
    ["Action, string 1 over fret 12", form.actionTreble],
    ["Action, lowest string", form.actionBass],
    ["Fretboard radius", form.radius],
  ];
  return optional.find(([, text]) => Number.isNaN(numberIn(text)))?.[0] ?? null;
}

/** The description a form stands for; what is no number goes out as null and is refused with its field's name. */
export function guitarOf(form: GuitarForm): GuitarContent {
  const length = (text: string) => finite(lengthMm(text, form.unit));
  return {
    format: "fortimetra-guitar",
    version: 1,
    kind: form.kind,
    strings: form.strings.map((string) => ({
      gauge_mm: finite(gaugeMm(string.gauge, form.unit), 4) as number,
      wound: string.wound,
      unit_weight_g_per_m: finite(numberIn(string.unitWeight)),
    })),
    scale_mm: length(form.scale) as number,
    tuning: form.strings.map(({ pitch }) =>
      pitch.trim() && Number.isFinite(Number(pitch)) ? Number(pitch) : pitch.trim(),
    ),
    capo: finite(Number(form.capo)) as number,
    a4_hz: finite(numberIn(form.a4)) as number,
    action_treble_mm: length(form.actionTreble),
    action_bass_mm: length(form.actionBass),
    radius_mm: length(form.radius),
    frets: finite(Number(form.frets)) as number,
    notes: form.notes,
  };
}

/** The same guitar shown in the other unit. */
export function inUnit(form: GuitarForm, unit: LengthUnit): GuitarForm {
  return formOf(form.name, guitarOf(form), unit);
}

const NAMES = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

/** All strings a semitone up or down; a pitch that is not understood stays as it is. */
export function shifted(form: GuitarForm, semitones: number): GuitarForm {
  return {
    ...form,
    strings: form.strings.map((string) => ({ ...string, pitch: shiftedPitch(string.pitch, semitones) })),
  };
}

function shiftedPitch(pitch: string, semitones: number): string {
  const found = /^([A-Ga-g])([#b]?)(-?\d)$/.exec(pitch.trim());
  if (!found) return pitch;
  const [, letter = "C", accidental, octave] = found;
  const base = NAMES.indexOf(letter.toUpperCase()) + (accidental === "#" ? 1 : accidental === "b" ? -1 : 0);
  const midi = base + 12 * Number(octave) + semitones;
  return `${NAMES[((midi % 12) + 12) % 12]}${Math.floor(midi / 12)}`;
}

function finite(value: number | null, digits = 3): number | null {
  return value !== null && Number.isFinite(value) ? Number(value.toFixed(digits)) : null;
}
