import { type PointerEvent, useMemo, useState } from "react";
import { secondsAt, xOf } from "~/lib/axis.math";
import { snapped, soundsOf } from "~/ui/take/tries.math";
import { useSheet } from "./sheetContext";

/** Nearer than this to where it began, a drag was a slip of the hand. */
const LEAST_PX = 4;

/** Where the selected note was heard: dragged to another sound, that sound is the note. By keys: [ and ]. */
export function HeardHandle() {
  const { measured, choice, view, teacher, trying } = useSheet();
  const { axis } = view;
  const [at, setAt] = useState<number | null>(null);
  const { analysis } = measured;
  const sounds = useMemo(() => soundsOf(analysis), [analysis]);
  const note = choice.selected?.note;
  if (!teacher || !note || note.onset_s === null || analysis.setup) return null;
  const heard = note.onset_s;
  const seconds = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.parentElement?.getBoundingClientRect();
    return snapped(sounds, secondsAt(axis, event.clientX - (box?.left ?? 0)));
  };
  const drop = () => {
    if (at !== null && Math.abs(xOf(axis, at) - xOf(axis, heard)) >= LEAST_PX) {
      const { id, repeat } = note;
      const others = (measured.pins ?? []).filter((p) => p.id !== id || p.repeat !== repeat);
      trying.begin({ pins: [...others, { id, repeat, at_s: at }] });
    }
    setAt(null);
  };
  return (
    <div
      className="absolute inset-y-0 w-3 -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: xOf(axis, at ?? heard) }}
      title="Drag to the sound that is this note"
      data-testid="heard-handle"
      aria-hidden="true"
      onClick={(event) => event.stopPropagation()}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setAt(heard);
      }}
      onPointerMove={(event) => {
        if (at !== null) setAt(seconds(event));
      }}
      onPointerUp={drop}
      onPointerCancel={() => setAt(null)}
    >
      <div className={`mx-auto h-full ${at === null ? "w-px bg-rule-strong" : "w-0.5 bg-focus"}`} />
      <div className="absolute bottom-0 left-1/2 h-3 w-2.5 -translate-x-1/2 rounded-t-sm bg-ink" />
    </div>
  );
}
