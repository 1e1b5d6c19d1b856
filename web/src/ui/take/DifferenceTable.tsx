import type { Difference } from "~/api/client";
import { cx } from "~/ui/cx";
import { changeWords, differenceName, differenceWords, valueWords } from "./compare.math";

/** Values of two takes side by side, with what the difference comes to. */
export function DifferenceTable({
  rows,
  before,
  after,
}: {
  rows: readonly Difference[];
  before: string;
  after: string;
}) {
  if (rows.length === 0) return null;
  const head = "border-b border-ink py-1 pr-5 font-normal text-ink-soft";
  const cell = "border-b border-rule py-1 pr-5";
  return (
    <table className="border-collapse self-start text-sm" data-testid="differences">
      <thead>
        <tr>
          <th scope="col" className={cx(head, "text-left")}>
            Value
          </th>
          <th scope="col" className={cx(head, "text-right")}>
            {before}
          </th>
          <th scope="col" className={cx(head, "text-right")}>
            {after}
          </th>
          <th scope="col" className={cx(head, "text-right")}>
            Difference
          </th>
          <th scope="col" className={cx(head, "text-left")}>
            Which is
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.code} data-difference={row.code}>
            <td className={cell}>{differenceName(row.code)}</td>
            <td className={cx(cell, "figures text-right whitespace-nowrap")}>
              {valueWords(row, row.before)}
            </td>
            <td className={cx(cell, "figures text-right whitespace-nowrap")}>{valueWords(row, row.after)}</td>
            <td className={cx(cell, "figures text-right whitespace-nowrap")}>{changeWords(row)}</td>
            <td
              className={cx(
                cell,
                row.clear && row.better !== null && "font-semibold",
                !row.clear && "text-ink-soft",
              )}
            >
              {differenceWords(row)}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
