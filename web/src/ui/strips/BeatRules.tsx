import type { BeatLine } from "~/lib/axis.math";
import { Marks } from "./Marks";
import { lineFrom } from "./marks.math";

const WIDTH = { repeat: 2, bar: 1.2, beat: 0.6 };

/** The beats, bars and repeats behind a strip. */
export function BeatRules({ lines, height }: { lines: BeatLine[]; height: number }) {
  return (
    <Marks
      marks={lines.map((line) => ({
        d: lineFrom(line.x, 0, line.x, height),
        stroke: "var(--rule)",
        width: WIDTH[line.kind],
      }))}
    />
  );
}
