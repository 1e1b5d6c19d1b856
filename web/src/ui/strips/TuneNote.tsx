import type { Curves } from "~/api/client";
import { type Axis, xOf } from "~/lib/axis.math";
import { contourPath, targetHz } from "~/lib/tune.math";
import {
  deviations,
  errorCents,
  markOf,
  type SheetNote,
  type Tolerances,
  toleranceCents,
} from "~/ui/take/notes.math";
import { useTune } from "./tuneHeight";

/** Half a window of the contour: nearer to its end a note's pitch is mixed with the next one's. */
const WINDOW_S = 0.012;

interface TuneNoteProps {
  axis: Axis;
  curves: Curves;
  sheetNote: SheetNote;
  tolerances: Tolerances;
}

/** The contour of one note against its target, with its tolerance. */
export function TuneNote({ axis, curves, sheetNote, tolerances }: TuneNoteProps) {
  const { note, event } = sheetNote;
  const { y } = useTune();
  const target = targetHz(note);
  if (note.onset_s === null || note.end_s === null || target === null) return null;
  const x = (seconds: number) => xOf(axis, seconds);
  const tolerance = toleranceCents(note, tolerances);
  const left = x(note.onset_s);
  const width = Math.max(2, x(Math.max(note.end_s, note.vibrato?.region?.[1] ?? 0)) - left);
  const mark = markOf(note);
  const held = note.bend?.plateau ?? null;
  const error = errorCents(note);
  const path = (from: number, to: number) => contourPath(curves, from, to, target, x, y, axis.pxPerSecond);
  // Of two strings at once the contour follows neither; the difference is drawn instead.
  const chord = !event?.bend && (event?.notes?.filter((n) => !n.muted).length ?? 1) > 1;
  const together = chord || event?.bend?.kind === "unison";
  const shown = chord ? [note.onset_s, note.end_s] : held;
  return (
    <g>
      <rect
        x={left}
        width={width}
        y={y(tolerance)}
        height={y(-tolerance) - y(tolerance)}
        fill="var(--corridor)"
      />
      {mark === "unclear" && (
        <rect
          x={left}
          width={width}
          y={y(tolerance)}
          height={y(-tolerance) - y(tolerance)}
          fill="url(#cannot-tell)"
          opacity={0.55}
        />
      )}
      <line x1={left} x2={left + width} y1={y(0)} y2={y(0)} stroke="var(--rule-strong)" strokeWidth={0.8} />
      {!together && (
        <path
          d={path(note.onset_s + 0.015, Math.max(note.end_s - WINDOW_S, note.vibrato?.region?.[1] ?? 0))}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={held ? 1 : 1.5}
          opacity={held ? 0.7 : 1}
        />
      )}
      {!together && held && (
        <path d={path(held[0], held[1])} fill="none" stroke="var(--ink)" strokeWidth={2.4} />
      )}
      {together && shown && error !== null && (
        <line
          x1={x(shown[0] as number)}
          x2={x(shown[1] as number)}
          y1={y(error)}
          y2={y(error)}
          stroke="var(--ink)"
          strokeWidth={2.4}
        />
      )}
      {deviations(note, tolerances).map((found) => (
        <Deviation
          key={found.from}
          {...found}
          from={x(found.from)}
          to={x(found.to)}
          tolerance={tolerance}
          share={labelShare(note, event)}
        />
      ))}
    </g>
  );
}

/** Where along a note its number stands: notes of a chord share the place. */
function labelShare(note: SheetNote["note"], event: SheetNote["event"]): number {
  const strings = event?.notes?.filter((n) => !n.muted).map((n) => n.string) ?? [];
  const at = strings.indexOf(note.string ?? -1);
  return strings.length > 1 && at >= 0 ? (at + 0.5) / strings.length : 0.5;
}

/** The area between the band and the value: below it when flat, above it when sharp. */
function Deviation({
  from,
  to,
  error,
  about,
  tolerance,
  share,
}: {
  from: number;
  to: number;
  error: number;
  about: number;
  tolerance: number;
  share: number;
}) {
  const { heightPx, y } = useTune();
  const edge = about + (error < 0 ? -tolerance : tolerance);
  const beyond = Math.abs(error) > tolerance;
  const tip = y(about + error);
  const colour = error < 0 ? "var(--under)" : "var(--over)";
  const top = Math.min(y(edge), tip);
  return (
    <g>
      {beyond && (
        <rect
          x={from}
          width={Math.max(2, to - from)}
          y={top}
          height={Math.abs(y(edge) - tip)}
          fill={colour}
          opacity={0.3}
        />
      )}
      <line x1={from} x2={to} y1={tip} y2={tip} stroke={colour} strokeWidth={2.5} />
      <text
        x={from + share * (to - from)}
        y={error < 0 ? Math.min(heightPx - 2, tip + 14) : Math.max(10, tip - 6)}
        textAnchor="middle"
        fontSize={11.5}
        fontWeight={600}
        className="figures"
        fill={colour}
      >
        {error < 0 ? "−" : "+"}
        {Math.abs(error).toFixed(0)}
      </text>
    </g>
  );
}
