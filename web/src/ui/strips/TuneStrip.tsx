import { memo } from "react";
import type { Curves } from "~/api/client";
import type { Axis, BeatLine } from "~/lib/axis.math";
import type { SheetNote, Tolerances } from "~/ui/take/notes.math";
import { BeatRules } from "./BeatRules";
import { Labels, Marks } from "./Marks";
import { StripScale } from "./StripScale";
import { useTune } from "./tuneHeight";
import { drawnTune } from "./tuneNote.math";

const LABELLED_CENTS = [200, 50, 25, 0, -25, -50, -200];
/** Labels nearer to each other than this would touch. */
const LEAST_GAP_PX = 11;

export function TuneScale() {
  const { y } = useTune();
  const fits = y(0) - y(25) >= LEAST_GAP_PX && y(50) - y(200) >= LEAST_GAP_PX;
  return <StripScale values={fits ? LABELLED_CENTS : [50, 0, -50]} y={y} />;
}

export interface TuneStripProps {
  axis: Axis;
  lines: BeatLine[];
  curves: Curves;
  notes: readonly SheetNote[];
  tolerances: Tolerances;
}

/** Each note's contour against its own target: linear to ±50 cents, compressed beyond. */
export const TuneStrip = memo(function TuneStrip({ axis, lines, curves, notes, tolerances }: TuneStripProps) {
  const tune = useTune();
  const { heightPx, y } = tune;
  const drawn = notes.map((note) => drawnTune(note, { axis, curves, tolerances, tune }));
  return (
    <svg width={axis.widthPx} height={heightPx} className="block border-t border-rule" aria-hidden="true">
      <defs>
        <pattern
          id="cannot-tell"
          width={6}
          height={6}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <line x1={0} x2={0} y1={0} y2={6} stroke="var(--unclear)" strokeWidth={1.2} />
        </pattern>
      </defs>
      <BeatRules lines={lines} height={heightPx} />
      {[50, -50].map((cents) => (
        <line
          key={cents}
          x1={0}
          x2={axis.widthPx}
          y1={y(cents)}
          y2={y(cents)}
          stroke="var(--rule)"
          strokeDasharray="1 5"
        />
      ))}
      <Marks
        marks={(["ground", "curve", "off"] as const).flatMap((layer) => drawn.flatMap((n) => n[layer]))}
      />
      <Labels labels={drawn.flatMap((n) => n.labels)} size={11.5} />
    </svg>
  );
});
