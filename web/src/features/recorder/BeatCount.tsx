import { useEffect, useRef } from "react";
import { beatShown } from "./clickPlan.math";

/** The beat to be seen by those who want silence; written once a frame without rendering. */
export function BeatCount({
  beat,
  perBar,
  repeats,
  lengthBeats,
}: {
  beat: () => number | null;
  perBar: number;
  repeats: number;
  lengthBeats: number;
}) {
  const count = useRef<HTMLSpanElement>(null);
  const words = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let frame = 0;
    const move = () => {
      const now = beat();
      if (count.current && words.current && now !== null) {
        const shown = beatShown(now, perBar);
        count.current.textContent = shown.count;
        count.current.dataset.first = String(shown.first);
        const repeat = Math.min(repeats, Math.floor(now / lengthBeats) + 1);
        words.current.textContent = shown.counting ? "count-in" : `repeat ${repeat} of ${repeats}`;
      }
      frame = requestAnimationFrame(move);
    };
    frame = requestAnimationFrame(move);
    return () => cancelAnimationFrame(frame);
  }, [beat, perBar, repeats, lengthBeats]);
  return (
    <p className="flex items-baseline gap-4" aria-hidden="true">
      <span
        ref={count}
        className="figures grid size-20 place-items-center border-2 border-rule-strong text-5xl font-bold data-[first=true]:border-ink data-[first=true]:bg-ink data-[first=true]:text-paper"
      />
      <span ref={words} className="text-lg text-ink-soft" />
    </p>
  );
}
