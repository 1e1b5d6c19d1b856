import { useEffect, useRef } from "react";
import type { DeskRow } from "~/api/client";
import { TakeRow } from "./TakeRow";
import type { NextSteps } from "./useNextSteps";

const HEADS = ["Student", "Played", "Drill", "Note by note", "Result", "Probably"];
const HEAD = "border-b border-ink py-1 pr-4 text-left text-sm font-normal text-ink-soft";

export interface DeskTableProps {
  rows: readonly DeskRow[];
  teacher: boolean;
  zone: string;
  /** The row the keys are at. */
  here: string | null;
  picked: ReadonlySet<string>;
  onPick: (id: string) => void;
  next: NextSteps;
}

/** Takes in the order they need the ear; the row the keys are at is kept in sight. */
export function DeskTable({ rows, teacher, zone, here, picked, onPick, next }: DeskTableProps) {
  const body = useRef<HTMLTableSectionElement>(null);
  useEffect(() => {
    if (here) body.current?.querySelector(`[data-take="${here}"]`)?.scrollIntoView({ block: "nearest" });
  }, [here]);
  const steps = rows.filter((row) => next.of(row));
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse">
        <thead>
          <tr>
            {teacher && (
              <th className={HEAD}>
                <span className="sr-only">Select</span>
              </th>
            )}
            {(steps.length > 0 ? [...HEADS, "Next step"] : HEADS).map((name) => (
              <th key={name} className={HEAD} scope="col">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody ref={body}>
          {rows.map((row) => (
            <TakeRow
              key={row.id}
              take={row}
              zone={zone}
              here={row.id === here}
              picked={teacher ? picked.has(row.id) : null}
              onPick={() => onPick(row.id)}
              next={steps.length > 0 ? (next.of(row) ?? "none") : null}
              onStep={() => next.confirm(next.of(row))}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}
