import { memo } from "react";
import type { TakeMeasured } from "~/api/client";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import type { SheetNote } from "~/ui/take/notes.math";
import { extraWords, rhythmFaults } from "~/ui/take/rhythm.math";
import { BeatRules } from "./BeatRules";
import { Labels, Marks } from "./Marks";
import { box, type Label, lineFrom, type Mark } from "./marks.math";
import { StripScale } from "./StripScale";

export const TIME_HEIGHT = 76;
const MOST_MS = 60;
const LABELLED_MS = [40, 0, -40];
const MIDDLE = TIME_HEIGHT / 2;
/** Late stands over the line, early hangs under it; beyond the edge a mark stays at the edge. */
export const yOfMs = (ms: number) =>
  MIDDLE - (Math.max(-MOST_MS, Math.min(MOST_MS, ms)) / MOST_MS) * (MIDDLE - 8);

const y = yOfMs;

export function TimeScale() {
  return <StripScale values={LABELLED_MS} y={y} />;
}

export interface TimeStripProps {
  axis: Axis;
  lines: BeatLine[];
  notes: readonly SheetNote[];
  extras: TakeMeasured["analysis"]["extras"];
}

/** Each onset against the grid, ms: a flag from the line to where it was played. */
export const TimeStrip = memo(function TimeStrip({ axis, lines, notes, extras }: TimeStripProps) {
  const { ground, flags, labels } = drawn(axis, notes);
  return (
    <svg
      width={axis.widthPx}
      height={TIME_HEIGHT}
      className="block border-t border-rule"
      aria-hidden="true"
      data-testid="time-strip"
    >
      <BeatRules lines={lines} height={TIME_HEIGHT} />
      <line x1={0} x2={axis.widthPx} y1={MIDDLE} y2={MIDDLE} stroke="var(--rule-strong)" strokeWidth={0.8} />
      <Marks marks={[...ground, ...flags]} />
      <Labels labels={labels} />
      {extras.map((extra) => {
        const x = xOf(axis, extra.onset_s);
        return (
          <g key={extra.onset_s} stroke="var(--over)" strokeWidth={1.6}>
            <path d={`M${x - 4} ${MIDDLE - 4}l8 8m0 -8l-8 8`} fill="none" />
            <title>{extraWords(extra.kind)}</title>
          </g>
        );
      })}
    </svg>
  );
});

/** How far each onset may be off, and how far it is. */
function drawn(axis: Axis, notes: readonly SheetNote[]): { ground: Mark[]; flags: Mark[]; labels: Label[] } {
  const found = { ground: [] as Mark[], flags: [] as Mark[], labels: [] as Label[] };
  for (const { note } of notes) {
    const timing = note.timing;
    if (!timing || timing.error_ms === null || timing.grid_s === null) continue;
    const x = xOf(axis, timing.grid_s);
    const limit = timing.limit_ms ?? 0;
    const outside = timing.verdict === "outside";
    const colour = !outside ? "var(--ink)" : timing.error_ms < 0 ? "var(--under)" : "var(--over)";
    const tip = y(timing.error_ms);
    const corridor = box(x - 3, y(limit), 11, y(-limit) - y(limit));
    found.ground.push({ d: corridor, fill: "var(--corridor)" });
    if (timing.verdict === "unclear")
      found.ground.push({ d: corridor, fill: "url(#cannot-tell)", opacity: 0.55 });
    found.flags.push(
      { d: lineFrom(x, MIDDLE, x, tip), stroke: colour, width: outside ? 2.4 : 1.4 },
      { d: lineFrom(x, tip, x + 7, tip), stroke: colour, width: outside ? 2.6 : 1.8 },
    );
    if (outside && axis.pxPerSecond > 30) {
      const says = (rhythmFaults(note)[0]?.text ?? "").replace(/ (ms|early|late)/g, "");
      found.labels.push({
        x: x + 10,
        y: tip + 4,
        text: `${timing.error_ms < 0 ? "−" : "+"}${says}`,
        colour,
      });
    }
  }
  return found;
}
