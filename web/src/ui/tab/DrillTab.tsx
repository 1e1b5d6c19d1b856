import type { DrillContent } from "~/api/client";
import { TabLine } from "./TabLine";
import { layoutTab } from "./tab.math";

const PX_PER_BEAT = 78;
const LEFT_PX = 40;
const LEAST_PX_PER_NOTE = 26;

/** One repeat of a drill as tab, scrolling where it is long. */
export function DrillTab({ content, lengthBeats }: { content: DrillContent; lengthBeats: number }) {
  const shortest = Math.min(1, ...content.events.map((event) => event.length));
  const perBeat = Math.max(PX_PER_BEAT, LEAST_PX_PER_NOTE / shortest);
  const barOffset = Math.min(17, (shortest * perBeat) / 2);
  const layout = layoutTab(content, lengthBeats, 1, (beat) => LEFT_PX + beat * perBeat);
  const perBar = content.tempo?.beats_per_bar ?? 4;
  const bars = Array.from({ length: Math.floor(lengthBeats / perBar) + 1 }, (_, i) => ({
    x: LEFT_PX + i * perBar * perBeat,
    kind: "bar" as const,
    label: "",
  }));
  return (
    // biome-ignore lint/a11y/useSemanticElements: a scrolling picture with its text as its name
    <div
      className="overflow-x-auto border-y border-rule py-3"
      role="group"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling area must be reachable by keyboard
      tabIndex={0}
      aria-label={asText(content)}
    >
      <TabLine
        layout={layout}
        widthPx={LEFT_PX + lengthBeats * perBeat + 20}
        lines={bars}
        barOffsetPx={barOffset}
      />
    </div>
  );
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
