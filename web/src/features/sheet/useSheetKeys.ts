import { useEffect } from "react";
import type { SheetNote } from "~/ui/take/notes.math";
import { type Listening, RATES } from "./useListening";

export const KEYS: [string, string][] = [
  ["Space", "play or stop the selected note"],
  ["T", "its target tone"],
  ["B", "both together"],
  ["R", "only the string that rings under it"],
  ["S", "speed: 100, 75, 50 %"],
  ["← →", "the note before, the note after"],
  ["N", "next note that is not clean"],
  ["?", "this list"],
];

export interface SheetKeys {
  notes: SheetNote[];
  selectedKey: string | null;
  select: (key: string) => void;
  listening: Listening;
  showHelp: () => void;
}

/** Every action of the sheet by keyboard. Keys typed into a control, or meant for a focused button, are left alone. */
export function useSheetKeys({ notes, selectedKey, select, listening, showHelp }: SheetKeys) {
  useEffect(() => {
    const at = notes.findIndex((n) => n.key === selectedKey);
    const go = (index: number) => {
      const note = notes[Math.max(0, Math.min(notes.length - 1, index))];
      if (note) select(note.key);
    };
    const nextFault = () => {
      const order = [...notes.slice(at + 1), ...notes.slice(0, at + 1)];
      const found = order.find((n) => n.note.clean !== "inside");
      if (found) select(found.key);
    };
    const actions: Record<string, () => void> = {
      " ": () => listening.listen("note"),
      t: () => listening.listen("tone"),
      b: () => listening.listen("both"),
      r: () => listening.listenToRing?.(),
      s: () => listening.setRate(RATES[(RATES.indexOf(listening.rate) + 1) % RATES.length] ?? 1),
      arrowright: () => go(at + 1),
      arrowleft: () => go(at - 1),
      n: nextFault,
      "?": showHelp,
    };
    const onKey = (event: KeyboardEvent) => {
      const target = event.target instanceof Element ? event.target : null;
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        target?.closest("input, select, textarea, [role=dialog], [role=listbox]")
      )
        return;
      if (event.key === " " && target?.closest("button, a, summary")) return;
      const act = actions[event.key.toLowerCase()];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [notes, selectedKey, select, listening, showHelp]);
}
