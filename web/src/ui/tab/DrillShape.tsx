import type { DrillRead } from "~/api/client";
import { Marks } from "../strips/Marks";
import { box, lineFrom } from "../strips/marks.math";
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
      <Marks
        marks={[
          ...laid.lines.map((y) => ({ d: lineFrom(0, y, laid.widthPx, y), stroke: "var(--rule)" })),
          ...laid.arcs.map((arc) => ({ d: arc.path, stroke: "var(--ink-soft)" })),
          ...laid.notes.map(({ x, y, text }) => ({
            d: box(x - 3 * text.length - 1, y - 4, 6 * text.length + 2, 8),
            fill: "var(--paper)",
          })),
        ]}
      />
      {laid.notes.map((note) => (
        <text
          key={note.key}
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
      ))}
    </svg>
  );
}
