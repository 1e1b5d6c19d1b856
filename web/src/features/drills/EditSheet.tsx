import { type KeyboardEvent, type PointerEvent, useCallback, useEffect, useRef } from "react";
import { useWidth } from "~/lib/useWidth";
import { LEFT_PX, layoutSheet, placeOf, pointAt, SYSTEM_GAP_PX, type TabSheet } from "~/ui/tab/systems.math";
import { TabCursor } from "~/ui/tab/TabCursor";
import { TabLine } from "~/ui/tab/TabLine";
import type { TabMark } from "~/ui/tab/TabNumber";
import { STRING_GAP, TOP } from "~/ui/tab/tab.math";
import { type Cell, sheetBeats } from "./edit.math";
import { type EditState, type Press, spanOf, spokenPlace } from "./editing.math";

export interface EditSheetProps {
  state: EditState;
  troubled: ReadonlySet<string>;
  onPress: (press: Press) => boolean;
  onMove: (cell: Cell, extend: boolean) => void;
  onListen: () => void;
  heardBeat: (() => number | null) | undefined;
}

/** The string × beat sheet: written on by keys; the pointer chooses places and spans. */
export function EditSheet({ state, troubled, onPress, onMove, onListen, heardBeat }: EditSheetProps) {
  const [frame, width] = useWidth();
  const board = useRef<HTMLDivElement>(null);
  const last = useRef<TabSheet | undefined>(undefined);
  const dragging = useRef(false);
  const drill = state.history.now;
  const sheet = layoutSheet(drill, sheetBeats(drill), width, last.current);
  last.current = sheet;
  const markOf = useCallback((id: string): TabMark => (troubled.has(id) ? "unclear" : "none"), [troubled]);
  const at = placeOf(sheet, state.cell.beat);
  const span = spanOf(state);

  // biome-ignore lint/correctness/useExhaustiveDependencies: it is the cursor's place that is brought into view
  useEffect(() => {
    board.current?.querySelector("[data-cursor]")?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [at.x, at.y]);

  const keyDown = (event: KeyboardEvent) => {
    if (event.key === " ") {
      event.preventDefault();
      onListen();
      return;
    }
    const meant = onPress({
      key: event.key,
      ctrl: event.ctrlKey || event.metaKey,
      shift: event.shiftKey,
      alt: event.altKey,
      now: event.timeStamp,
    });
    if (meant) event.preventDefault();
  };
  const cellAt = (event: PointerEvent): Cell => {
    const box = event.currentTarget.getBoundingClientRect();
    const strings = drill.tuning.length;
    return pointAt(sheet, event.clientX - box.left, event.clientY - box.top, state.step, strings);
  };
  return (
    <div
      ref={frame}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the sheet takes the keys
      tabIndex={0}
      role="application"
      aria-label="Tab sheet. Arrow keys move, digits write frets, question mark lists all keys."
      className="overflow-x-auto border-y border-rule py-3"
      data-testid="edit-sheet"
      onKeyDown={keyDown}
    >
      <div
        ref={board}
        className="relative w-max min-w-full cursor-crosshair touch-pan-y"
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          dragging.current = true;
          event.currentTarget.setPointerCapture(event.pointerId);
          onMove(cellAt(event), event.shiftKey);
        }}
        onPointerMove={(event) => {
          if (!dragging.current) return;
          const cell = cellAt(event);
          if (cell.beat !== state.cell.beat || cell.string !== state.cell.string)
            onMove(cell, cell.beat !== state.cell.beat || state.anchor !== null);
        }}
        onPointerUp={() => {
          dragging.current = false;
        }}
        onPointerCancel={() => {
          dragging.current = false;
        }}
      >
        {state.anchor !== null && <SelectedSpan sheet={sheet} from={span.from} to={span.to} />}
        {sheet.systems.map((system) => (
          <div
            key={system.index}
            style={{
              height: sheet.pitchPx,
              width: system.widthPx,
              contain: "strict",
              contentVisibility: "auto",
            }}
          >
            <TabLine
              layout={system.layout}
              widthPx={system.widthPx}
              lines={system.lines}
              barOffsetPx={sheet.barOffsetPx}
              names={system.index === 0}
              markOf={markOf}
            />
          </div>
        ))}
        <div
          data-cursor
          className="pointer-events-none absolute top-0 left-0 border-2 border-focus will-change-transform"
          style={{
            transform: `translate(${at.x - 12}px, ${at.y + TOP + (state.cell.string - 1) * STRING_GAP - STRING_GAP / 2 - 2}px)`,
            width: 24,
            height: STRING_GAP + 4,
          }}
        />
        <div
          className="pointer-events-none absolute top-0 left-0 h-0.5 bg-focus will-change-transform"
          style={{
            transform: `translate(${at.x}px, ${at.y + TOP + (drill.tuning.length - 1) * STRING_GAP + 6}px)`,
            width: state.step * sheet.perBeat - 4,
          }}
        />
        {heardBeat && <TabCursor sheet={sheet} beat={heardBeat} />}
      </div>
      <p className="sr-only" aria-live="polite" data-testid="place">
        {spokenPlace(state)}
      </p>
    </div>
  );
}

function SelectedSpan({ sheet, from, to }: { sheet: TabSheet; from: number; to: number }) {
  return sheet.systems
    .filter((system) => system.fromBeat < to && system.toBeat > from)
    .map((system) => {
      const start = Math.max(from, system.fromBeat);
      const end = Math.min(to, system.toBeat);
      return (
        <div
          key={system.index}
          className="pointer-events-none absolute bg-corridor"
          data-testid="selected-span"
          style={{
            left: LEFT_PX + (start - system.fromBeat) * sheet.perBeat - sheet.barOffsetPx,
            top: system.index * sheet.pitchPx + TOP - 10,
            width: (end - start) * sheet.perBeat,
            height: sheet.pitchPx - TOP - SYSTEM_GAP_PX,
          }}
        />
      );
    });
}
