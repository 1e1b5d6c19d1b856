import type { DrillRead } from "~/api/client";
import { shapeLayout } from "./shape.math";

/** How a drill begins, the size of a thumb: known by its shape before its title is read. */
export function DrillShape({
  drill,
  width = 156,
  low = false,
}: {
  drill: Pick<DrillRead, "shape" | "lines">;
  width?: number;
  /** Only the strings that sound: for lists that have to stay dense. */
  low?: boolean;
}) {
  const laid = shapeLayout(drill.shape, drill.lines, width, low);
  return (
    <svg width={width} height={laid.heightPx} aria-hidden className="block shrink-0" data-testid="shape">
      {laid.lines.map((y) => (
        <line key={y} x1={0} x2={laid.widthPx} y1={y} y2={y} stroke="var(--rule)" />
      ))}
      {laid.arcs.map((arc) => (
        <path key={arc.key} d={arc.path} fill="none" stroke="var(--ink-soft)" />
      ))}
      {laid.notes.map((note) => (
        <g key={note.key}>
          <rect
            x={note.x - 3 * note.text.length - 1}
            y={note.y - 4}
            width={6 * note.text.length + 2}
            height={8}
            fill="var(--paper)"
          />
          <text
            x={note.x}
            y={note.y + 3.5}
            textAnchor="middle"
            fontSize={9.5}
            fontWeight={600}
            className="figures"
            fill="var(--ink)"
          >
            {note.text}
          </text>
        </g>
      ))}
    </svg>
  );
}
