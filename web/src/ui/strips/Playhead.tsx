import { useEffect, useRef } from "react";
import { type Axis, xOf } from "~/lib/axis.math";
import type { Player } from "~/lib/usePlayer";

/** Where the recording sounds now; moved without rendering. */
export function Playhead({ axis, player }: { axis: Axis; player: Player }) {
  const line = useRef<HTMLDivElement>(null);
  const { playing, position } = player;
  useEffect(() => {
    if (!playing?.withTake) return;
    let frame = 0;
    const move = () => {
      const at = position();
      if (line.current && at !== null) {
        line.current.style.transform = `translateX(${xOf(axis, at)}px)`;
        line.current.hidden = false;
      }
      frame = requestAnimationFrame(move);
    };
    frame = requestAnimationFrame(move);
    return () => {
      cancelAnimationFrame(frame);
      if (line.current) line.current.hidden = true;
    };
  }, [axis, playing, position]);
  return <div ref={line} hidden className="pointer-events-none absolute inset-y-0 left-0 w-px bg-focus" />;
}
