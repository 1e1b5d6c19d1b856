import { memo, startTransition, useEffect, useMemo, useState } from "react";
import { plusMinus, signed, verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import {
  errorCents,
  findingWords,
  markOf,
  notesAsText,
  noteWords,
  type SheetNote,
  type SortColumn,
  sortNotes,
  type Tolerances,
  uCents,
} from "~/ui/take/notes.math";
import { rhythmFaults } from "~/ui/take/rhythm.math";
import { wantsLook } from "~/ui/take/sheet.math";

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

export interface NotesTableProps {
  notes: SheetNote[];
  tolerances: Tolerances;
  selectedKey: string | null;
  onSelect: (key: string) => void;
}

const FIRST_ROWS = 30;
const MOST_AT_ONCE = 400;
const LATER_MS = 250;

/** The same values as the strips, as a table: sort, filter, copy. */
export function NotesTable({ notes, tolerances, selectedKey, onSelect }: NotesTableProps) {
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
              onSelect={onSelect}
            />
          ))}
        </tbody>
      </table>
      {shown.length > rows.length && count >= MOST_AT_ONCE && (
        <Button className="my-2" onClick={() => setCount(Number.POSITIVE_INFINITY)}>
          All {shown.length} rows
        </Button>
      )}
      {shown.length === 0 && <p className="py-4">Every note is clean.</p>}
    </section>
  );
}

const NoteRow = memo(function NoteRow({
  row,
  tolerances,
  has,
  selected,
  onSelect,
}: {
  row: SheetNote;
  tolerances: Tolerances;
  has: Record<string, boolean>;
  selected: boolean;
  onSelect: (key: string) => void;
}) {
  const { note } = row;
  const error = errorCents(note);
  const rhythm =
    rhythmFaults(note).length > 0 && note.pitch?.verdict !== "outside" && !note.bend && !note.vibrato;
  const pitchSide = rhythm ? "none" : markOf(note);
  const cell = "border-b border-rule py-1 pr-4";
  return (
    <tr
      data-note={`${note.id}@${note.repeat}`}
      aria-current={selected ? "true" : undefined}
      className={cx("cursor-pointer", selected ? "bg-corridor" : "hover:bg-sheet")}
      onClick={() => onSelect(row.key)}
    >
      <td className={cx(cell, "figures whitespace-nowrap")}>
        <button type="button" className="text-left" onClick={() => onSelect(row.key)}>
          {String(row.place).padStart(2, " ")} <span className="text-ink-soft">/ {note.repeat + 1}</span>
        </button>
      </td>
      <td className={cell}>
        {noteWords(row)}{" "}
        <span className="figures text-ink-soft">
          {note.string}:{note.fret ?? "×"}
        </span>
      </td>
      <td className={cell}>{findingWords(note, tolerances)}</td>
      <td
        className={cx(
          cell,
          "figures text-right whitespace-nowrap",
          pitchSide === "under" && "text-under",
          pitchSide === "over" && "text-over",
        )}
        data-testid="error"
      >
        {error === null ? "–" : `${signed(error)} ${plusMinus(uCents(note))}`}
      </td>
      {has.hold && (
        <td className={cx(cell, "figures text-right")}>{note.bend?.hold_sd_cents?.toFixed(1) ?? "–"}</td>
      )}
      {has.time && (
        <Deviation found={note.timing?.error_ms} verdict={note.timing?.verdict} u={note.timing?.u} />
      )}
      {has.level && (
        <Deviation found={note.level?.deviation_db} verdict={note.level?.verdict} u={note.level?.u} />
      )}
      {has.ring && (
        <td
          className={cx(
            cell,
            "figures text-right whitespace-nowrap",
            note.noise?.verdict === "outside" && "text-ring",
          )}
        >
          {note.noise?.worst_ring_db == null
            ? "–"
            : `${note.noise.string}: ${signed(note.noise.worst_ring_db)} ${plusMinus(note.noise.u)}`}
        </td>
      )}
      <td className={cell}>
        <span
          className={cx(
            "inline-block",
            note.clean === "outside" && "font-semibold",
            note.clean === "unclear" && "border-b-2 border-dotted border-unclear",
            note.said && "border border-dashed border-ink px-1",
          )}
        >
          {note.said === "meant"
            ? "meant"
            : note.said === "excluded"
              ? "does not count"
              : note.status === "missed"
                ? "missed"
                : verdictWords(note.clean)}
        </span>
      </td>
    </tr>
  );
});

function Deviation({
  found,
  verdict,
  u,
}: {
  found: number | null | undefined;
  verdict: string | undefined;
  u: number | null | undefined;
}) {
  const outside = verdict === "outside" && found !== null && found !== undefined;
  return (
    <td
      className={cx(
        "figures border-b border-rule py-1 pr-4 text-right whitespace-nowrap",
        outside && found < 0 && "text-under",
        outside && found >= 0 && "text-over",
      )}
    >
      {found === null || found === undefined ? "–" : `${signed(found)} ${plusMinus(u)}`}
    </td>
  );
}
