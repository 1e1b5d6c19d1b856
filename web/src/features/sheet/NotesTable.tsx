import { startTransition, useEffect, useMemo, useState } from "react";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { notesAsText, type SortColumn, sortNotes } from "~/ui/take/notes.math";
import { wantsLook } from "~/ui/take/sheet.math";
import { NoteRow } from "./NoteRow";
import { useSheet } from "./sheetContext";

const COLUMNS: { id: SortColumn | null; label: string; numeric?: boolean }[] = [
  { id: "place", label: "Note" },
  { id: null, label: "Asked" },
  { id: null, label: "Heard" },
  { id: "error", label: "Error, cents", numeric: true },
  { id: "hold", label: "Hold SD, cents", numeric: true },
  { id: "time", label: "Time, ms", numeric: true },
  { id: "level", label: "Volume, dB", numeric: true },
  { id: "ring", label: "Rings, dB", numeric: true },
  { id: "clean", label: "Verdict" },
];

const FIRST_ROWS = 30;
const MOST_AT_ONCE = 400;
const LATER_MS = 250;

/** The same values as the strips, as a table: sort, filter, copy. */
export function NotesTable() {
  const { notes, tolerances, choice } = useSheet();
  const selectedKey = choice.selected?.key ?? null;
  const [sort, setSort] = useState<{ column: SortColumn; descending: boolean }>({
    column: "place",
    descending: false,
  });
  const has: Record<string, boolean> = useMemo(
    () => ({
      hold: notes.some((n) => n.note.bend),
      time: notes.some((n) => n.note.timing),
      level: notes.some((n) => n.note.level),
      ring: notes.some((n) => n.note.noise),
    }),
    [notes],
  );
  const columns = COLUMNS.filter(({ id }) => id === null || has[id] !== false);
  const [onlyFaults, setOnlyFaults] = useState(false);
  const [copied, setCopied] = useState(false);
  // The strips come first: rows beyond the first screen follow when there is time.
  const [count, setCount] = useState(FIRST_ROWS);
  useEffect(() => {
    const later = window.setTimeout(
      () => startTransition(() => setCount((now) => Math.max(now, MOST_AT_ONCE))),
      LATER_MS,
    );
    return () => window.clearTimeout(later);
  }, []);
  const shown = useMemo(
    () => sortNotes(onlyFaults ? notes.filter(wantsLook) : notes, sort.column, sort.descending),
    [notes, onlyFaults, sort],
  );
  const selectedAt = shown.findIndex((n) => n.key === selectedKey);
  const rows = shown.slice(0, Math.max(count, selectedAt + 1));
  const sortBy = (column: SortColumn) =>
    setSort((now) => ({
      column,
      descending: now.column === column ? !now.descending : column !== "place" && column !== "clean",
    }));
  return (
    <section aria-label="Notes">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="mr-auto text-lg font-semibold">Notes</h2>
        <Button aria-pressed={onlyFaults} onClick={() => setOnlyFaults(!onlyFaults)}>
          Only what is not clean
        </Button>
        <Button
          onClick={async () => {
            await navigator.clipboard.writeText(notesAsText(shown));
            setCopied(true);
            window.setTimeout(() => setCopied(false), 2000);
          }}
        >
          {copied ? "Copied" : "Copy table"}
        </Button>
      </div>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-sm" data-testid="notes">
          <thead>
            <tr>
              {columns.map(({ id, label, numeric }) => (
                <th
                  key={label}
                  scope="col"
                  className={cx(
                    "border-b border-ink py-1 pr-4 font-normal text-ink-soft",
                    numeric ? "text-right" : "text-left",
                  )}
                  aria-sort={id === sort.column ? (sort.descending ? "descending" : "ascending") : undefined}
                >
                  {id ? (
                    <button
                      type="button"
                      className="underline decoration-dotted underline-offset-4"
                      onClick={() => sortBy(id)}
                    >
                      {label}
                    </button>
                  ) : (
                    label
                  )}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((note) => (
              <NoteRow
                key={note.key}
                row={note}
                tolerances={tolerances}
                has={has}
                selected={note.key === selectedKey}
                onSelect={choice.select}
              />
            ))}
          </tbody>
        </table>
      </div>
      {shown.length > rows.length && count >= MOST_AT_ONCE && (
        <Button className="my-2" onClick={() => setCount(Number.POSITIVE_INFINITY)}>
          All {shown.length} rows
        </Button>
      )}
      {shown.length === 0 && <p className="py-4">Every note is clean.</p>}
    </section>
  );
}
