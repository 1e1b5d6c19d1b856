/** Lengths as the trade writes them; mm inside, inch and thousandths outside. Pure. */

import { numberIn } from "./typed";

export type LengthUnit = "mm" | "inch";
export const MM_PER_INCH = 25.4;

/** Text of a length in the unit that is shown; as few digits as say it. */
export function lengthText(mm: number | null, unit: LengthUnit): string {
  if (mm === null) return "";
  return unit === "mm" ? trimmed(mm, 2) : trimmed(mm / MM_PER_INCH, 3);
}

/** Gauges are written in thousandths of an inch, or in mm. */
export function gaugeText(mm: number, unit: LengthUnit): string {
  return unit === "mm" ? trimmed(mm, 4) : trimmed((mm * 1000) / MM_PER_INCH, 1);
}

/** mm of what was typed; null for nothing, NaN for what is no number. */
export function lengthMm(text: string, unit: LengthUnit): number | null {
  const value = numberIn(text);
  return value === null || unit === "mm" ? value : value * MM_PER_INCH;
}

export function gaugeMm(text: string, unit: LengthUnit): number {
  const value = numberIn(text) ?? Number.NaN;
  return unit === "mm" ? value : (value / 1000) * MM_PER_INCH;
}

function trimmed(value: number, digits: number): string {
  return String(Number(value.toFixed(digits)));
}
