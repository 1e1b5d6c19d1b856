import type { ReactNode } from "react";
import { cx } from "./cx";

export interface Column {
  label: string;
  /** Words stand left, figures right. */
  words?: boolean;
}

export interface FigureTableProps {
  columns: Column[];
  rows: { key: string; cells: ReactNode[] }[];
  /** As wide as there is room. */
  wide?: boolean;
}

/** A small table of figures. */
export function FigureTable({ columns, rows, wide = false }: FigureTableProps) {
  const side = (i: number) => (columns[i]?.words ? "text-left" : "figures text-right whitespace-nowrap");
  return (
    <div className="overflow-x-auto">
      <table className={cx("w-full border-collapse text-sm", wide ? "" : "max-w-3xl")}>
        <thead>
          <tr>
            {columns.map(({ label, words }) => (
              <th
                key={label}
                scope="col"
                className={cx(
                  "border-b border-ink py-1 pr-4 font-normal text-ink-soft",
                  words ? "text-left" : "text-right",
                )}
              >
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key}>
              {row.cells.map((cell, i) => (
                <td key={columns[i]?.label} className={cx("border-b border-rule py-1 pr-4", side(i))}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
