import { useCallback, useMemo, useRef, useState } from "react";
import type { SheetNote } from "~/ui/take/notes.math";
import { inRepeat, nextFault, rangeOf } from "~/ui/take/sheet.math";

export interface Choice {
  selected: SheetNote | null;
  /** The selected note, or the range it ends. */
  chosen: readonly SheetNote[];
  select: (key: string, extend?: boolean) => void;
  go: (way: 1 | -1, extend: boolean) => void;
  repeat: (way: 1 | -1) => void;
  wholeRepeat: () => void;
  single: () => void;
  fault: (way: 1 | -1) => void;
}

/** Where to begin: what is wrong with a bend or a vibrato first, then anything wrong, then what the drill is about. */
function firstOf(notes: readonly SheetNote[]): string | null {
  const first =
    notes.find((n) => n.note.clean === "outside" && (n.note.bend || n.note.vibrato)) ??
    notes.find((n) => n.note.clean === "outside") ??
    notes.find((n) => n.note.bend || n.note.vibrato) ??
    notes[0];
  return first?.key ?? null;
}

/** The selected note, or a range of notes from a first one to it. */
export function useChoice(notes: readonly SheetNote[]): Choice {
  const [key, setKey] = useState<string | null>(() => firstOf(notes));
  const [startKey, setStartKey] = useState<string | null>(null);
  const at = notes.findIndex((n) => n.key === key);
  const selected = notes[at] ?? null;
  const chosen = useMemo(() => {
    if (!selected) return [];
    return startKey === null ? [selected] : rangeOf(notes, startKey, selected.key);
  }, [notes, selected, startKey]);
  // The same function for good: every row of the table holds it.
  const now = useRef(key);
  const select = useCallback((next: string, extend = false) => {
    const before = now.current;
    now.current = next;
    setStartKey((start) => (extend ? (start ?? before) : null));
    setKey(next);
  }, []);
  const go = useCallback(
    (way: 1 | -1, extend: boolean) => {
      const next = notes[Math.max(0, Math.min(notes.length - 1, at + way))];
      if (next) select(next.key, extend);
    },
    [notes, at, select],
  );
  const repeat = useCallback(
    (way: 1 | -1) => {
      const next = selected && inRepeat(notes, selected, way);
      if (next) select(next.key);
    },
    [notes, selected, select],
  );
  const wholeRepeat = useCallback(() => {
    if (!selected) return;
    const own = notes.filter((n) => n.note.repeat === selected.note.repeat);
    setStartKey(own[0]?.key ?? null);
    now.current = own.at(-1)?.key ?? selected.key;
    setKey(now.current);
  }, [notes, selected]);
  const single = useCallback(() => setStartKey(null), []);
  const fault = useCallback(
    (way: 1 | -1) => {
      const next = nextFault(notes, at, way);
      if (next) select(next.key);
    },
    [notes, at, select],
  );
  return { selected, chosen, select, go, repeat, wholeRepeat, single, fault };
}
