import type { Label, Mark } from "./marks.math";

/** Marks that look alike as one path, what comes first undermost: a browser has to style, lay out and paint every
 * element by itself, and a strip has hundreds of notes.
 */
export function Marks({ marks }: { marks: readonly Mark[] }) {
  const looks = new Map<string, Mark & { of: string[] }>();
  for (const mark of marks) {
    if (!mark.d) continue;
    const look = [mark.stroke, mark.fill, mark.width, mark.opacity, mark.dash].join();
    const found = looks.get(look);
    if (found) found.of.push(mark.d);
    else looks.set(look, { ...mark, of: [mark.d] });
  }
  return [...looks].map(([look, mark]) => (
    <path
      key={look}
      d={mark.of.join("")}
      fill={mark.fill ?? "none"}
      stroke={mark.stroke}
      strokeWidth={mark.width}
      strokeDasharray={mark.dash}
      opacity={mark.opacity}
    />
  ));
}

export function Labels({ labels, size = 11 }: { labels: readonly Label[]; size?: number }) {
  return (
    <g fontSize={size} fontWeight={600} className="figures">
      {labels.map((label, i) => (
        <text
          // biome-ignore lint/suspicious/noArrayIndexKey: they stand still; drawn anew they are others
          key={i}
          x={label.x}
          y={label.y}
          textAnchor={label.middle ? "middle" : undefined}
          fill={label.colour}
        >
          {label.text}
        </text>
      ))}
    </g>
  );
}
