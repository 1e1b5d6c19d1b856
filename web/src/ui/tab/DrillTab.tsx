import { type CSSProperties, useRef } from "react";
import type { DrillContent } from "~/api/client";
import { useWidth } from "~/lib/useWidth";
import { layoutSheet, SYSTEM_GAP_PX, type TabSheet } from "./systems.math";
import { TabCursor } from "./TabCursor";
import { TabLine } from "./TabLine";
import type { TabMark } from "./TabNumber";

export interface DrillTabProps {
  content: DrillContent;
  lengthBeats: number;
  /** The beat that sounds now, asked once a frame, or null. */
  heardBeat?: (() => number | null) | undefined;
  markOf?: (eventId: string, repeat: number) => TabMark;
}

/** One repeat of a drill as tab, in lines of whole bars. */
export function DrillTab({ content, lengthBeats, heardBeat, markOf }: DrillTabProps) {
  const [frame, width] = useWidth();
  const last = useRef<TabSheet | undefined>(undefined);
  const sheet = layoutSheet(content, lengthBeats, width, last.current);
  last.current = sheet;
  const widest = Math.max(...sheet.systems.map((system) => system.widthPx));
  return (
    // biome-ignore lint/a11y/useSemanticElements: a scrolling picture with its text as its name
    <div
      ref={frame}
      className="relative overflow-x-auto border-y border-rule py-3 print:overflow-visible print:border-0"
      role="group"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling area must be reachable by keyboard
      tabIndex={0}
      aria-label={asText(content)}
      data-testid="tab"
    >
      <div className="relative">
        {sheet.systems.map((system) => (
          <div
            key={system.index}
            className="break-inside-avoid"
            style={{ paddingBottom: SYSTEM_GAP_PX, ...printWidth(system.widthPx, widest) }}
          >
            <TabLine
              layout={system.layout}
              widthPx={system.widthPx}
              lines={system.lines}
              barOffsetPx={sheet.barOffsetPx}
              names={system.index === 0}
              {...(markOf ? { markOf } : {})}
            />
          </div>
        ))}
        {heardBeat && <TabCursor sheet={sheet} beat={heardBeat} />}
      </div>
    </div>
  );
}

/** On paper all lines shrink by the same share, where the widest does not fit. */
function printWidth(px: number, widest: number): CSSProperties {
  return { "--print-width": `min(${(100 * px) / widest}%, ${px}px)` } as CSSProperties;
}

function asText(content: DrillContent): string {
  return content.events
    .map((e) =>
      e.notes?.length
        ? e.notes.map((n) => `string ${n.string} ${n.muted ? "muted" : `fret ${n.fret}`}`).join(" and ")
        : "rest",
    )
    .join(", ");
}
