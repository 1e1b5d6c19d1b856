import { Marks } from "../strips/Marks";
import { dot, lineFrom } from "../strips/marks.math";
import type { TabHand, TabLayout } from "./tab.math";

const WAVE_PX = 7;

/** How long notes are, which are accented, and where vibrato is asked for. */
export function TabRhythm({ layout }: { layout: TabLayout }) {
  return (
    <g stroke="var(--ink-soft)" fill="none">
      <Marks
        marks={[
          ...layout.stems.map(({ x, fromY, toY }) => ({ d: lineFrom(x, fromY, x, toY) })),
          ...layout.stems
            .filter((stem) => stem.dotted)
            .map(({ x, toY }) => ({ d: dot(x + 4, toY - 2, 1.3), fill: "var(--ink-soft)", stroke: "none" })),
          ...layout.beams.map(({ fromX, toX, y }) => ({ d: lineFrom(fromX, y, toX, y), width: 2.2 })),
          ...layout.waves.map(({ fromX, toX, y }) => ({ d: wavePath(fromX, toX, y), stroke: "var(--ink)" })),
          ...layout.accents.map(({ x, y }) => ({ d: `M${x - 4} ${y - 3}l8 3l-8 3`, stroke: "var(--ink)" })),
        ]}
      />
      {layout.brackets.map((bracket) => (
        <g key={bracket.key}>
          <path d={`M${bracket.fromX} ${bracket.y - 3}v3H${bracket.toX}v-3`} />
          <text
            x={(bracket.fromX + bracket.toX) / 2}
            y={bracket.y + 10}
            fontSize={10}
            textAnchor="middle"
            fill="var(--ink-soft)"
            stroke="none"
          >
            {bracket.label}
          </text>
        </g>
      ))}
      {layout.rings.map((ring) => (
        <g key={ring.key}>
          <text x={ring.fromX - 4} y={ring.y + 3} fontSize={10} fill="var(--ink-soft)" stroke="none">
            {ring.label}
          </text>
          <line
            x1={ring.fromX + 5 * ring.label.length - 4}
            x2={Math.max(ring.fromX + 5 * ring.label.length - 4, ring.toX)}
            y1={ring.y}
            y2={ring.y}
            strokeDasharray="3 3"
          />
        </g>
      ))}
      {layout.hands.map((hand) => (
        <Hand key={hand.key} hand={hand} />
      ))}
    </g>
  );
}

/** A stroke down is an open box, up a wedge, one that goes on a dash; the fingers stand under it. */
function Hand({ hand }: { hand: TabHand }) {
  const { x, y } = hand;
  return (
    <g data-testid="hand">
      {hand.stroke === "down" && (
        <path d={`M${x - 4} ${y}v-7h8v7`} stroke="var(--ink-soft)" strokeWidth={1.4} />
      )}
      {hand.stroke === "up" && (
        <path d={`M${x - 3.5} ${y - 8}l3.5 8l3.5 -8`} stroke="var(--ink-soft)" strokeWidth={1.2} />
      )}
      {hand.stroke === "on" && <path d={`M${x - 4} ${y - 4}h8`} stroke="var(--ink-soft)" strokeWidth={1.2} />}
      {hand.fingers && (
        <text x={x} y={y + 13} fontSize={10} textAnchor="middle" fill="var(--ink-soft)" stroke="none">
          {hand.fingers}
        </text>
      )}
    </g>
  );
}

function wavePath(fromX: number, toX: number, y: number): string {
  const count = Math.max(1, Math.floor((toX - fromX) / WAVE_PX));
  return `M${fromX} ${y}${`q${WAVE_PX / 4} -4 ${WAVE_PX / 2} 0t${WAVE_PX / 2} 0`.repeat(count)}`;
}
