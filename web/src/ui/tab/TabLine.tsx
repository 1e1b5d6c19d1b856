import { memo } from "react";
import type { BeatLine } from "~/lib/axis.math";
import { Marks } from "../strips/Marks";
import { box, lineFrom } from "../strips/marks.math";
import { type TabMark, TabNumber } from "./TabNumber";
import { TabRhythm } from "./TabRhythm";
import type { TabLayout, TabSlur } from "./tab.math";

const NAMES_PX = 16;

export interface TabLineProps {
  layout: TabLayout;
  widthPx: number;
  /** Where the layout's pixels begin, for a stretch of a longer line. */
  originPx?: number;
  lines: BeatLine[];
  /** How far before its first note a bar line stands. */
  barOffsetPx?: number;
  /** Write the strings' names at the beginning. */
  names?: boolean;
  selected?: { id: string; repeat: number } | null;
  markOf?: (eventId: string, repeat: number) => TabMark;
  onSelect?: (eventId: string, repeat: number) => void;
}

/** One line of tab over all repeats. */
export const TabLine = memo(function TabLine({
  layout,
  widthPx,
  originPx = 0,
  lines,
  barOffsetPx = 17,
  names = false,
  selected,
  markOf,
  onSelect,
}: TabLineProps) {
  const top = layout.strings[0]?.y ?? 0;
  const bottom = layout.strings.at(-1)?.y ?? 0;
  const bars = lines.filter((line) => line.kind !== "beat");
  return (
    <svg
      width={widthPx}
      height={layout.heightPx}
      viewBox={`${originPx} 0 ${widthPx} ${layout.heightPx}`}
      className="block print:h-auto print:w-[var(--print-width)]"
      aria-hidden="true"
    >
      <Marks
        marks={layout.strings.map(({ y }) => ({
          d: lineFrom(originPx + (names ? NAMES_PX : 0), y, originPx + widthPx, y),
          stroke: "var(--rule-strong)",
          width: 0.7,
        }))}
      />
      {names &&
        layout.strings.map((string) => (
          <text
            key={string.y}
            x={NAMES_PX / 2}
            y={string.y + 3.5}
            textAnchor="middle"
            fontSize={10}
            fill="var(--ink-soft)"
          >
            {string.name}
          </text>
        ))}
      <Marks
        marks={bars.map(({ x, kind }) => ({
          d: lineFrom(originPx + x - barOffsetPx, top, originPx + x - barOffsetPx, bottom),
          stroke: "var(--ink)",
          width: kind === "repeat" ? 2 : 0.9,
        }))}
      />
      {bars
        .filter((line) => line.label)
        .map((line) => (
          <text key={line.x} x={originPx + line.x - barOffsetPx} y={11} fontSize={12} fill="var(--ink-soft)">
            {line.label}
          </text>
        ))}
      <Marks marks={layout.slurs.map((slur) => ({ d: slurPath(slur), stroke: "var(--ink)" }))} />
      {layout.slurs.map((slur) => (
        <text
          key={slur.key}
          x={(slur.fromX + slur.toX) / 2}
          y={slur.y - 8}
          fontSize={10}
          textAnchor="middle"
          fill="var(--ink)"
        >
          {slur.label}
        </text>
      ))}
      {layout.bends.map((bend) => (
        <g key={bend.key}>
          {bend.shape === "held" ? (
            <line
              x1={bend.x - 16}
              x2={bend.untilX}
              y1={bend.tipY}
              y2={bend.tipY}
              stroke="var(--ink)"
              strokeDasharray="4 3"
            />
          ) : (
            <g stroke="var(--ink)" fill="none">
              <path
                d={
                  bend.shape === "pre"
                    ? `M${bend.x} ${bend.y - 2}V${bend.tipY + 5}`
                    : `M${bend.x} ${bend.y - 2}Q${bend.tipX} ${bend.y - 4} ${bend.tipX} ${bend.tipY + 5}`
                }
                strokeWidth={1.1}
              />
              <path d={arrow(bend.shape === "pre" ? bend.x : bend.tipX, bend.tipY, 1)} fill="var(--ink)" />
            </g>
          )}
          {bend.downX !== null && (
            <g stroke="var(--ink)" fill="none">
              <path
                d={`M${bend.x} ${bend.tipY + 4}H${bend.downX}Q${bend.downX + 14} ${bend.tipY + 4} ${bend.downX + 14} ${bend.y - 6}`}
                strokeWidth={1.1}
              />
              <path d={arrow(bend.downX + 14, bend.y - 1, -1)} fill="var(--ink)" />
            </g>
          )}
          <text
            x={bend.shape === "held" ? bend.x - 14 : bend.shape === "pre" ? bend.x + 5 : bend.tipX + 6}
            y={bend.tipY + (bend.shape === "up" ? 4 : -2)}
            fontSize={11}
            fill="var(--ink)"
          >
            {bend.label}
          </text>
        </g>
      ))}
      <TabRhythm layout={layout} />
      <Marks
        marks={layout.rests.map(({ x, y }) => ({
          d: box(x - 2, y - 3, 10, 5),
          fill: "var(--ink)",
          opacity: 0.55,
        }))}
      />
      {layout.numbers.map((number) => (
        <TabNumber
          key={number.key}
          number={number}
          mark={markOf?.(number.eventId, number.repeat) ?? "none"}
          selected={selected?.id === number.eventId && selected.repeat === number.repeat}
          onSelect={onSelect}
        />
      ))}
    </svg>
  );
});

function arrow(x: number, tipY: number, way: 1 | -1): string {
  return `M${x - 3.5} ${tipY + 6 * way}L${x} ${tipY}L${x + 3.5} ${tipY + 6 * way}Z`;
}

function slurPath(slur: TabSlur): string {
  if (slur.slide) {
    const rise = slur.slide === "up" ? 4 : -4;
    return `M${slur.fromX + 10} ${slur.y + rise}L${slur.toX - 10} ${slur.y - rise}`;
  }
  return `M${slur.fromX} ${slur.y}Q${(slur.fromX + slur.toX) / 2} ${slur.y - 9} ${slur.toX} ${slur.y}`;
}
