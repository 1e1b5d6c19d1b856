import type { TabLayout } from "./tab.math";

export type TabMark =
  | "under"
  | "over"
  | "ring"
  | "missed"
  | "wrong"
  | "uneven"
  | "unclear"
  | "meant"
  | "out"
  | "none";

export interface TabNumberProps {
  number: TabLayout["numbers"][number];
  mark: TabMark;
  selected: boolean;
  onSelect?: ((eventId: string, repeat: number) => void) | undefined;
}

/** One fret on its string, with what is known of it: never by colour alone. */
export function TabNumber({ number, mark, selected, onSelect }: TabNumberProps) {
  const width = number.text.length * 8 + 5;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the table of notes is the keyboard's way to the same
    <g
      onClick={onSelect && (() => onSelect(number.eventId, number.repeat))}
      style={onSelect ? { cursor: "pointer" } : undefined}
    >
      <rect
        x={number.x - width / 2}
        y={number.y - 7.5}
        width={width}
        height={15}
        rx={2}
        fill={selected ? "var(--ink)" : "var(--paper)"}
        stroke={mark === "unclear" ? "var(--unclear)" : mark === "meant" ? "var(--ink)" : "none"}
        strokeDasharray={mark === "unclear" ? "2 2" : undefined}
      />
      <text
        x={number.x}
        y={number.y + 4.5}
        textAnchor="middle"
        fontSize={13}
        fontWeight={600}
        className="figures"
        fill={selected ? "var(--paper)" : "var(--ink)"}
        textDecoration={mark === "missed" || mark === "wrong" ? "line-through" : undefined}
        opacity={mark === "missed" || mark === "out" ? 0.55 : 1}
      >
        {number.text}
      </text>
      {mark === "uneven" && (
        <path
          d={`M${number.x - 6} ${number.y + 10}q1.5 -3 3 0t3 0t3 0t3 0`}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.6}
        />
      )}
      {mark === "ring" && (
        <path
          d={`M${number.x - 6} ${number.y + 9}h12m-12 3h12`}
          fill="none"
          stroke="var(--ring)"
          strokeWidth={1.6}
        />
      )}
      {mark === "under" && (
        <path d={`M${number.x - 5} ${number.y + 9.5}h10`} stroke="var(--under)" strokeWidth={2.5} />
      )}
      {mark === "over" && (
        <path d={`M${number.x - 5} ${number.y - 9.5}h10`} stroke="var(--over)" strokeWidth={2.5} />
      )}
    </g>
  );
}
