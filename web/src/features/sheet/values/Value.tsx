import { Check, CircleHelp, X } from "lucide-react";
import { createContext, type ReactNode, useContext } from "react";
import type { Verdict } from "~/api/client";
import type { ValueKey } from "~/lib/valueHelp";
import { plusMinus, signed, verdictWords } from "~/lib/words";
import { About } from "./About";

/** Whether values that nothing is judged by are shown too. */
export const AllValues = createContext(true);

/** A table of values; title: what they are of. */
export function Values({ title, children }: { title?: string; children: ReactNode }) {
  return (
    <table className="mt-2 w-full text-sm">
      {title && <caption className="pb-1 text-left font-semibold">{title}</caption>}
      <tbody>{children}</tbody>
    </table>
  );
}

export type Measure = "pitch" | "bend" | "vibrato" | "timing" | "level" | "length" | "noise";

/** How the note's measures were judged, and how somebody who may says otherwise. */
export interface Judged {
  verdictOf: (measure: Measure) => Verdict | null;
  change: ((measure: Measure) => void) | null;
}

export const JudgedContext = createContext<Judged | null>(null);

export interface ValueProps {
  label: string;
  value: string | null;
  u?: number | null | undefined;
  /** How far it may be off upwards, where that is not u. */
  up?: number | null | undefined;
  digits?: number;
  unit: string;
  tolerance?: string | undefined;
  /** The measure this value decides. */
  decides?: Measure;
  /** What its name says when it is pressed. */
  about?: ValueKey;
}

/** One value with its uncertainty, unit and tolerance; a dash where there is none. Judged ones are always shown. */
export function Value({ label, value, u, up, digits = 1, unit, tolerance, decides, about }: ValueProps) {
  const all = useContext(AllValues);
  if (!all && tolerance === undefined) return null;
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 pr-2 text-left leading-tight font-normal text-ink-soft">
        {about ? <About label={label} value={about} /> : label}
      </th>
      <td className="figures py-1 text-right whitespace-nowrap">
        {value ?? "–"} {value !== null && plusMinus(u, digits, up)}{" "}
        <span className="font-sans text-xs text-ink-soft">{value !== null && unit}</span>
      </td>
      <td className="figures py-1 pl-2 text-right text-xs whitespace-nowrap text-ink-soft">{tolerance}</td>
      <td className="w-7 py-0.5 pl-1 text-right">
        {decides && <VerdictMark measure={decides} label={label} />}
      </td>
    </tr>
  );
}

const MARKS = { inside: Check, outside: X, unclear: CircleHelp } as const;

/** The verdict beside what decided it; pressed, it can be changed. */
function VerdictMark({ measure, label }: { measure: Measure; label: string }) {
  const judged = useContext(JudgedContext);
  const verdict = judged?.verdictOf(measure) ?? null;
  if (!judged || verdict === null) return null;
  const Mark = MARKS[verdict];
  const says = `${label}: ${verdictWords(verdict)}`;
  if (!judged.change)
    return (
      <span title={says}>
        <Mark size={14} aria-hidden className="inline" />
        <span className="sr-only">{verdictWords(verdict)}</span>
      </span>
    );
  return (
    <button
      type="button"
      className="inline-flex size-6 items-center justify-center rounded-sm hover:shadow-[inset_0_0_0_1px_var(--rule-strong)] print:hidden"
      title={`${says}. Press to change the verdict.`}
      aria-label={`${says}. Change the verdict`}
      onClick={() => judged.change?.(measure)}
    >
      <Mark size={14} aria-hidden />
    </button>
  );
}
/** A number with its minus sign; null stays null. */
export function number(value: number | null | undefined, digits = 1): string | null {
  return value === null || value === undefined ? null : value.toFixed(digits).replace("-", "−");
}

/** A signed number. */
export function plain(value: number | null): string | null {
  return value === null ? null : signed(value);
}

/** A share as a whole percentage. */
export function percent(share: number | null): string | null {
  return share === null ? null : (100 * share).toFixed(0);
}
