import { memo } from "react";
import type { NoiseEvent } from "~/api/client";
import { type Axis, type BeatLine, xOf } from "~/lib/axis.math";
import { eventWords } from "~/ui/take/noise.math";
import { BeatRules } from "./BeatRules";
import { Marks } from "./Marks";
import { lineFrom } from "./marks.math";

const LANE = 11;
const EDGE = 6;
const SCRAPES = 13;
const LOUDEST_DB = -10;
const SOFTEST_DB = -40;

export const quietHeight = (strings: number) => EDGE + strings * LANE + SCRAPES;
const laneY = (string: number) => EDGE + (string - 0.5) * LANE;

/** A lane's stroke is the heavier the louder the string rings. */
const weight = (db: number) =>
  1.5 + (6.5 * (Math.min(LOUDEST_DB, Math.max(SOFTEST_DB, db)) - SOFTEST_DB)) / (LOUDEST_DB - SOFTEST_DB);

export function QuietScale({ names }: { names: readonly string[] }) {
  return (
    <div className="relative h-full">
      {names.map((name, i) => (
        <span
          // biome-ignore lint/suspicious/noArrayIndexKey: a string is its place
          key={i}
          className="figures absolute right-2 -translate-y-1/2 leading-none"
          style={{ top: laneY(i + 1) }}
        >
          {i + 1} {name}
        </span>
      ))}
    </div>
  );
}

export interface QuietStripProps {
  axis: Axis;
  lines: BeatLine[];
  events: readonly NoiseEvent[];
  strings: number;
  selected: NoiseEvent | null;
}

/** One thin lane a string: a stroke where it rings and should not; scrapes, thuds and other sounds in the lane underneath. */
export const QuietStrip = memo(function QuietStrip({
  axis,
  lines,
  events,
  strings,
  selected,
}: QuietStripProps) {
  const height = quietHeight(strings);
  return (
    <svg
      width={axis.widthPx}
      height={height}
      className="block border-t border-rule"
      aria-hidden="true"
      data-testid="quiet-strip"
    >
      <BeatRules lines={lines} height={height} />
      <Marks
        marks={Array.from({ length: strings }, (_, i) => ({
          d: lineFrom(0, laneY(i + 1), axis.widthPx, laneY(i + 1)),
          stroke: "var(--rule)",
          width: 0.8,
        }))}
      />
      {events.map((event) => (
        <Sounding
          key={`${event.kind}/${event.string}/${event.from_s}`}
          event={event}
          axis={axis}
          strings={strings}
          selected={event === selected}
        />
      ))}
    </svg>
  );
});

function Sounding({
  event,
  axis,
  strings,
  selected,
}: {
  event: NoiseEvent;
  axis: Axis;
  strings: number;
  selected: boolean;
}) {
  if (event.kind === "hum") return null;
  const from = xOf(axis, event.from_s);
  const to = Math.max(from + 3, xOf(axis, event.to_s));
  const outside = event.verdict === "outside";
  const colour = event.verdict === "inside" ? "var(--ink-soft)" : "var(--ring)";
  if (event.string === null) {
    const y = EDGE + strings * LANE + 3;
    return (
      <g stroke={colour} strokeWidth={outside ? 2 : 1.2} fill="none">
        {event.kind === "other" ? (
          <rect
            x={from}
            y={y - 1}
            width={to - from}
            height={9}
            fill="url(#cannot-tell)"
            stroke="var(--ink-soft)"
            strokeWidth={0.8}
          />
        ) : (
          <path d={event.kind === "thud" ? `M${from} ${y}v8` : scrapePath(from, to, y + 4)} />
        )}
        <title>{eventWords(event)}</title>
      </g>
    );
  }
  const y = laneY(event.string);
  return (
    <g>
      <line
        x1={from}
        x2={to}
        y1={y}
        y2={y}
        stroke={colour}
        strokeWidth={weight(event.level_db)}
        strokeDasharray={event.verdict === "unclear" ? "3 2.5" : undefined}
        opacity={event.verdict === "inside" ? 0.6 : 1}
      />
      {event.kind === "after_stop" && <path d={`M${from} ${y - 6}v12`} stroke={colour} strokeWidth={1.6} />}
      {selected && (
        <rect x={from - 3} y={y - 6} width={to - from + 6} height={12} fill="none" stroke="var(--ink)" />
      )}
      {outside && (
        <text x={to + 4} y={y + 4} fontSize={10.5} fontWeight={600} className="figures" fill="var(--ring)">
          {Math.round(event.level_db).toString().replace("-", "−")}
        </text>
      )}
      <title>{eventWords(event)}</title>
    </g>
  );
}

function scrapePath(from: number, to: number, y: number): string {
  const teeth = Math.max(2, Math.round((to - from) / 4));
  const step = (to - from) / teeth;
  return Array.from({ length: teeth }, (_, i) => {
    const x = from + i * step;
    return `${i === 0 ? `M${x} ${y + 3}` : ""}l${step / 2} -6l${step / 2} 6`;
  }).join("");
}
