import type { Curves, Note } from "~/api/client";
import { contourPath, targetHz } from "~/lib/tune.math";
import { type Tolerances, toleranceCents } from "~/ui/take/notes.math";

const WIDTH = 336;
const HEIGHT = 130;
const LEFT = 34;
const BOTTOM = 18;

/** The note's own curve at full, linear scale, cents from its target. */
export function NoteCurve({
  note,
  curves,
  tolerances,
}: {
  note: Note;
  curves: Curves;
  tolerances: Tolerances;
}) {
  const target = targetHz(note);
  if (note.onset_s === null || note.end_s === null || target === null) return null;
  const from = note.onset_s;
  const to = Math.max(note.end_s, note.vibrato?.region?.[1] ?? 0);
  const bendSize = note.bend ? Math.max(...[note.bend.target_cents].flat()) : 0;
  const swing = note.vibrato?.extent_cents ?? 0;
  const over = Math.max(
    30,
    note.bend ? 0 : swing + (note.vibrato?.return_error_cents ?? 0) + 20,
    (note.bend?.error_cents ?? 0) + (note.bend?.overshoot_cents ?? 0) + 20,
    (note.pitch?.error_cents ?? 0) + 20,
  );
  const under = Math.max(
    30,
    bendSize + 30,
    note.bend ? swing + 20 : 0,
    -(note.bend?.error_cents ?? note.pitch?.error_cents ?? 0) + 20,
  );
  const x = (seconds: number) => LEFT + ((seconds - from) / (to - from)) * (WIDTH - LEFT - 4);
  const y = (cents: number) =>
    ((over - Math.max(-under, Math.min(over, cents))) / (over + under)) * (HEIGHT - BOTTOM);
  const tolerance = toleranceCents(note, tolerances);
  const pxPerSecond = (WIDTH - LEFT) / (to - from);
  const path = (a: number, b: number) => contourPath(curves, a, b, target, x, y, pxPerSecond);
  const held = note.bend?.plateau;
  const stepS = to - from > 2 ? 1 : to - from > 0.8 ? 0.5 : 0.1;
  const marks = Array.from({ length: Math.floor((to - from) / stepS) + 1 }, (_, i) => i * stepS);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-3 w-full"
      role="img"
      aria-label="Pitch of the selected note over time, in cents from its target"
    >
      <rect
        x={LEFT}
        width={WIDTH - LEFT}
        y={y(tolerance)}
        height={y(-tolerance) - y(tolerance)}
        fill="var(--corridor)"
      />
      <line x1={LEFT} x2={WIDTH} y1={y(0)} y2={y(0)} stroke="var(--rule-strong)" strokeWidth={0.8} />
      {[0, ...(bendSize ? [-bendSize] : [])].map((cents) => (
        <text
          key={cents}
          x={LEFT - 5}
          y={y(cents) + 4}
          textAnchor="end"
          fontSize={11}
          className="figures"
          fill="var(--ink-soft)"
        >
          {String(cents).replace("-", "−")}
        </text>
      ))}
      {bendSize > 0 && <line x1={LEFT} x2={WIDTH} y1={y(-bendSize)} y2={y(-bendSize)} stroke="var(--rule)" />}
      <path d={path(from + 0.01, to)} fill="none" stroke="var(--ink)" strokeWidth={1.3} />
      {held && <path d={path(held[0], held[1])} fill="none" stroke="var(--ink)" strokeWidth={2.8} />}
      {marks.map((s) => (
        <text
          key={s}
          x={x(from + s)}
          y={HEIGHT - 4}
          fontSize={11}
          textAnchor={s === 0 ? "start" : "middle"}
          className="figures"
          fill="var(--ink-soft)"
        >
          {stepS < 1 ? s.toFixed(1) : s} s
        </text>
      ))}
    </svg>
  );
}
