import { memo, type PointerEvent, useEffect, useMemo, useRef } from "react";
import type { Curves } from "~/api/client";
import { markOf, type SheetNote } from "~/ui/take/notes.math";
import type { View } from "./useView";

const HEIGHT = 34;
const MIDDLE = HEIGHT / 2;
const COLUMNS = 400;

/** The whole take at a glance, with the part that is seen; a click or a drag goes there. */
export function Minimap({
  view,
  notes,
  curves,
}: {
  view: View;
  notes: readonly SheetNote[];
  curves: Curves;
}) {
  const seen = useRef<HTMLDivElement>(null);
  const { durationS } = view.axis;
  const { watch } = view;
  useEffect(
    () =>
      watch((from, to) => {
        if (!seen.current) return;
        seen.current.style.left = `${100 * from}%`;
        seen.current.style.width = `${Math.max(0.4, 100 * (to - from))}%`;
      }),
    [watch],
  );
  const go = (event: PointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    view.centre(((event.clientX - box.left) / box.width) * durationS);
  };
  return (
    <div
      className="relative touch-none border-t border-rule print:hidden"
      style={{ height: HEIGHT }}
      data-testid="minimap"
      aria-hidden="true"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        go(event);
      }}
      onPointerMove={(event) => {
        if (event.buttons & 1) go(event);
      }}
    >
      <Overview notes={notes} curves={curves} durationS={durationS} />
      <div
        ref={seen}
        className="pointer-events-none absolute inset-y-0 border-x-2 border-ink bg-corridor/50"
      />
    </div>
  );
}

/** Waveform and a mark for every note that is not clean. */
const Overview = memo(function Overview({
  notes,
  curves,
  durationS,
}: {
  notes: readonly SheetNote[];
  curves: Curves;
  durationS: number;
}) {
  const wave = useMemo(() => {
    const { outline_high: high, outline_step_s: step } = curves;
    const per = Math.max(1, Math.ceil(high.length / COLUMNS));
    const tops = [];
    for (let i = 0; i < high.length; i += per) tops.push(Math.max(0, ...high.slice(i, i + per)));
    const most = Math.max(0.02, ...tops);
    return tops
      .map((top, i) => {
        const x = ((i * per * step) / durationS) * 1000;
        const y = (MIDDLE - 4) * (top / most);
        return `M${x.toFixed(1)} ${(MIDDLE - y).toFixed(1)}V${(MIDDLE + y).toFixed(1)}`;
      })
      .join("");
  }, [curves, durationS]);
  const marks = useMemo(() => {
    const paths: Record<string, string> = { under: "", over: "", ring: "", other: "" };
    for (const { note } of notes) {
      if (note.onset_s === null) continue;
      const mark = markOf(note);
      if (mark === "none" || mark === "meant" || mark === "out") continue;
      const x = ((note.onset_s / durationS) * 1000).toFixed(1);
      if (mark === "under") paths.under += `M${x} ${MIDDLE + 3}V${HEIGHT - 1}`;
      else if (mark === "over") paths.over += `M${x} 1V${MIDDLE - 3}`;
      else if (mark === "ring") paths.ring += `M${x} ${MIDDLE - 5}V${MIDDLE + 5}`;
      else paths.other += `M${x} ${MIDDLE - 7}V${MIDDLE + 7}`;
    }
    return paths;
  }, [notes, durationS]);
  return (
    <svg
      className="absolute inset-0 block h-full w-full"
      viewBox={`0 0 1000 ${HEIGHT}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <g fill="none" vectorEffect="non-scaling-stroke">
        <path d={wave} stroke="var(--rule-strong)" strokeWidth={1.6} />
        <path d={marks.other} stroke="var(--unclear)" strokeWidth={1.4} strokeDasharray="2 1.5" />
        <path d={marks.ring} stroke="var(--ring)" strokeWidth={2} />
        <path d={marks.under} stroke="var(--under)" strokeWidth={2} />
        <path d={marks.over} stroke="var(--over)" strokeWidth={2} />
      </g>
    </svg>
  );
});
