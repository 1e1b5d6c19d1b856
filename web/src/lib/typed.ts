/** Numbers as people type them. */
import { Problem } from "~/api/client";

/** A number with a point or a comma, and either minus; null where nothing stands, NaN for what is no number. */
export function numberIn(text: string): number | null {
  const bare = text.trim().replace(",", ".").replace("−", "-");
  if (bare === "") return null;
  const value = Number(bare);
  return Number.isFinite(value) ? value : Number.NaN;
}

/** The same, for what is sent. Throws a Problem that says what is no number. */
export function typedNumber(text: string, what: string): number | null {
  const value = numberIn(text);
  if (Number.isNaN(value))
    throw new Problem(0, "no_number", `${what}: “${text.trim()}” is no number. Type one, for example 2.5.`);
  return value;
}

/** Whole numbers with spaces or commas between them. */
export function typedNumbers(text: string, what: string): number[] {
  return text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map((one) => typedNumber(one, what) ?? 0);
}
