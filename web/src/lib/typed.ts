/** Numbers as people type them. */
import { Problem } from "~/api/client";

/** A number with a point or a comma; null where nothing stands. Throws a Problem that says what is no number. */
export function typedNumber(text: string, what: string): number | null {
  if (text.trim() === "") return null;
  const value = Number(text.trim().replace(",", "."));
  if (!Number.isFinite(value))
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
