/** Differences between two takes in words; no DOM. */
import type { Difference, Schemas } from "~/api/client";
import { plusMinus, signed } from "~/lib/words";

export type Comparison = Schemas["Comparison"];

const NAMES: Record<string, string> = {
  clean_rate: "Clean notes",
  bend_error: "Bend error",
  bend_error_spread: "Bends, spread",
  pitch_error: "Plain notes off by",
  pitch_error_spread: "Plain notes, spread",
  vibrato_return: "Vibrato returns off by",
  vibrato_return_spread: "Vibrato returns, spread",
  onset_error: "Early or late",
  onset_error_spread: "Unsteady in time",
  level_deviation: "Volume against its like",
  level_deviation_spread: "Volume, spread",
  ring: "Loudest ring",
  slur_deficit: "Slurs softer by",
  fastest_even_run: "Fastest even run",
  tempo: "Tempo played",
};

export function differenceName(code: string): string {
  return NAMES[code] ?? code;
}

/** A value with its unit: "+12.3 cents", "94 %". */
export function valueWords({ code, unit }: Difference, value: number | null): string {
  if (value === null) return "–";
  const size = code.endsWith("_spread") || unit === "%" || unit === "bpm" || unit === "notes/s";
  const digits = unit === "%" ? 0 : 1;
  return `${size ? value.toFixed(digits) : signed(value, digits)} ${unit}`;
}

/** What a difference comes to: better, worse, other, or within the uncertainty. */
export function differenceWords(found: Difference): string {
  if (found.difference === null) return "–";
  if (found.u === null) return "";
  if (!found.clear) return "within the uncertainty";
  if (found.better === null) return "other";
  return found.better ? "better" : "worse";
}

export function changeWords(found: Difference): string {
  if (found.difference === null) return "–";
  const digits = found.unit === "%" ? 0 : 1;
  return `${signed(found.difference, digits)}${found.u === null ? "" : ` ${plusMinus(found.u, digits)}`}`;
}

/** "3 notes became clean, 1 note is clean no more"; tried: of what is not kept yet, "would become". */
export function gainWords({ gained, lost }: Comparison, tried = false): string {
  const parts = [];
  const became = tried ? "would become" : "became";
  if (gained) parts.push(`${gained} ${gained === 1 ? "note" : "notes"} ${became} clean`);
  const are = tried ? "would be" : lost === 1 ? "is" : "are";
  if (lost) parts.push(`${lost} ${lost === 1 ? "note" : "notes"} ${are} clean no more`);
  return parts.length ? `${parts.join(", ")}.` : "Every note is judged as before.";
}

/** What of the take as a whole changed for sure, in a sentence; or that nothing did. */
export function changedWords({ overall, gained, lost }: Comparison): string {
  const told = overall.filter((d) => d.clear && d.better !== null && d.code !== "clean_rate");
  const part = (better: boolean) =>
    told
      .filter((d) => d.better === better)
      .map(
        (d) =>
          `${differenceName(d.code).toLowerCase()} (${valueWords(d, d.before)} to ${valueWords(d, d.after)})`,
      )
      .join(", ");
  const [better, worse] = [part(true), part(false)];
  const said = [better && `Better: ${better}.`, worse && `Worse: ${worse}.`].filter(Boolean).join(" ");
  if (said) return said;
  return gained + lost > 0
    ? "As a whole no value differs for sure."
    : "No value differs by more than its uncertainty and a fifth of its tolerance.";
}
