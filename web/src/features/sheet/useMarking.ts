import { type PointerEvent, useRef, useState } from "react";
import { type Axis, secondsAt } from "~/lib/axis.math";
import { useSheet } from "./sheetContext";

/** A pointer that moved less was a click. */
const LEAST_PX = 8;

/** Marking a stretch of the recording by dragging over its waveform; a teacher's way to leave it out. */
export function useMarking(axis: Axis) {
  const { teacher, markStretch } = useSheet();
  const [marking, setMarking] = useState<readonly [number, number] | null>(null);
  const from = useRef<number | null>(null);
  const moved = useRef(false);
  const at = (event: PointerEvent<HTMLElement>) =>
    event.clientX - event.currentTarget.getBoundingClientRect().left;
  const span = (a: number, b: number) =>
    [secondsAt(axis, Math.min(a, b)), secondsAt(axis, Math.max(a, b))] as const;
  const end = () => {
    from.current = null;
    setMarking(null);
  };
  return {
    /** What is being marked right now. */
    marking,
    /** Whether the click that follows a pointer's way was the end of a drag. */
    dragged: () => moved.current,
    markBy: {
      onPointerDown: (event: PointerEvent<HTMLElement>) => {
        moved.current = false;
        if (!teacher || event.button !== 0 || !(event.target as Element).closest("[data-testid=waveform]"))
          return;
        from.current = at(event);
      },
      onPointerMove: (event: PointerEvent<HTMLElement>) => {
        if (from.current === null || !(event.buttons & 1)) return;
        if (Math.abs(at(event) - from.current) < LEAST_PX && !moved.current) return;
        moved.current = true;
        setMarking(span(from.current, at(event)));
      },
      onPointerUp: (event: PointerEvent<HTMLElement>) => {
        if (from.current !== null && moved.current) markStretch(span(from.current, at(event)));
        end();
      },
      onPointerCancel: end,
    },
  };
}
