import type { ReactNode } from "react";
import { plusMinus, signed } from "~/lib/words";

/** A table of values; title: what they are of. */
export function Values({ title, children }: { title?: string; children: ReactNode }) {
  return (
    <table className="mt-3 w-full text-sm">
      {title && <caption className="pb-1 text-left font-semibold">{title}</caption>}
      <tbody>{children}</tbody>
    </table>
  );
}

export interface ValueProps {
  label: string;
  value: string | null;
  u?: number | null | undefined;
  digits?: number;
  unit: string;
  tolerance?: string | undefined;
}

/** One value with its uncertainty, unit and tolerance; a dash where there is none. */
export function Value({ label, value, u, digits = 1, unit, tolerance }: ValueProps) {
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 pr-2 text-left font-normal text-ink-soft">
        {label}
      </th>
      <td className="figures py-1 text-right whitespace-nowrap">
        {value ?? "–"} {value !== null && plusMinus(u, digits)}
      </td>
      <td className="py-1 pl-2 text-xs text-ink-soft">
        {value !== null && unit}
        {tolerance && <span className="figures block">{tolerance}</span>}
      </td>
    </tr>
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
