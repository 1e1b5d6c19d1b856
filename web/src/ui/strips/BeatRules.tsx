import type { BeatLine } from "~/lib/axis.math";

/** The beats, bars and repeats behind a strip. */
export function BeatRules({ lines, height }: { lines: BeatLine[]; height: number }) {
  return (
    <>
      {lines.map((line) => (
        <line
          key={line.x}
          x1={line.x}
          x2={line.x}
          y1={0}
          y2={height}
          stroke="var(--rule)"
          strokeWidth={line.kind === "repeat" ? 2 : line.kind === "bar" ? 1.2 : 0.6}
        />
      ))}
    </>
  );
}
