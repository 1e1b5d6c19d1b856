import { memo } from "react";
import { plusMinus, signed, verdictWords } from "~/lib/words";
import { cx } from "~/ui/cx";
import {
  errorCents,
  findingWords,
  markOf,
  noteWords,
  type SheetNote,
  type Tolerances,
  uCents,
} from "~/ui/take/notes.math";
import { rhythmFaults } from "~/ui/take/rhythm.math";

/** A note of the table: what was asked, what was heard, and each value with its uncertainty. */
export const NoteRow = memo(function NoteRow({
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
        <Deviation
          found={note.level?.deviation_db}
          verdict={note.level?.verdict}
          u={note.level?.u}
          up={note.level?.u_louder}
        />
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
            ? "intentional"
            : note.said === "excluded"
              ? "excluded"
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
  up,
}: {
  found: number | null | undefined;
  verdict: string | undefined;
  u: number | null | undefined;
  up?: number | null | undefined;
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
      {found === null || found === undefined ? "–" : `${signed(found)} ${plusMinus(u, 1, up)}`}
    </td>
  );
}
