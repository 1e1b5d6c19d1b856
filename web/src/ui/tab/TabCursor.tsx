import { useEffect, useRef } from "react";
import { placeOf, SYSTEM_GAP_PX, type TabSheet } from "./systems.math";

/** Where a drill sounds now; moved once a frame without rendering. */
export function TabCursor({ sheet, beat }: { sheet: TabSheet; beat: () => number | null }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const move = () => {
      const now = beat();
      if (line.current) {
        line.current.hidden = now === null || now < 0;
        if (now !== null && now >= 0) {
          const { x, y } = placeOf(sheet, now);
          line.current.style.transform = `translate(${x}px, ${y}px)`;
        }
      }
      frame = requestAnimationFrame(move);
    };
    frame = requestAnimationFrame(move);
    return () => cancelAnimationFrame(frame);
  }, [sheet, beat]);
  return (
    <div
      ref={line}
      hidden
      data-testid="heard-at"
      className="pointer-events-none absolute top-0 left-0 w-0.5 bg-focus print:hidden"
      style={{ height: sheet.pitchPx - SYSTEM_GAP_PX }}
    />
  );
}
