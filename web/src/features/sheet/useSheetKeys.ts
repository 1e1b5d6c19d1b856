import { useEffect } from "react";
import type { Heard, Listening } from "./useListening";
import { RATES } from "./useListening";

/** The keys of the sheet as its help shows them. */
export const KEYS: { title: string; keys: [string, string][] }[] = [
  {
    title: "Go",
    keys: [
      ["← →", "the note before, the note after"],
      ["↑ ↓", "the same note in the repeat before, after"],
      ["Shift ← →", "choose a range of notes"],
      ["E", "choose the whole repeat"],
      ["Esc", "one note again"],
      ["N, Shift N", "next, previous note that is not clean"],
      ["1 2 3", "through the notes of a likely cause"],
    ],
  },
  {
    title: "Hear",
    keys: [
      ["Space", "the note in context, or the range; again stops"],
      ["P", "the note alone"],
      ["T", "its target tone"],
      ["B", "note and tone together"],
      ["R", "only the string that rings under it"],
      ["F", "as played, then in tune"],
      ["G", "this repeat, then the best one"],
      [", .", "slower, faster; the pitch is kept"],
      ["L, C", "loop, click"],
    ],
  },
  {
    title: "See",
    keys: [
      ["+ −", "closer, further"],
      ["0", "the whole take"],
      ["Z", "the chosen notes fill the sheet"],
      ["V", "repeats in line, or stacked by strip"],
    ],
  },
  {
    title: "Say",
    keys: [
      ["M", "it is intentional"],
      ["X", "exclude it"],
      ["J", "judge it otherwise"],
      ["K", "comment"],
      ["[ ]", "it is the sound before, after (measured again)"],
      ["Y, Esc", "keep what was measured otherwise, or leave it"],
      ["Ctrl Z", "take the last word back; with Shift: let it count again"],
      ["Enter", "judged; on to the next take"],
      ["D", "to the Desk"],
      ["?", "this list"],
    ],
  },
];

export interface SheetActions {
  go: (way: 1 | -1, extend: boolean) => void;
  repeat: (way: 1 | -1) => void;
  wholeRepeat: () => void;
  single: () => void;
  fault: (way: 1 | -1) => void;
  cause: (number: number) => void;
  zoomIn: () => void;
  zoomOut: () => void;
  showWhole: () => void;
  showChosen: () => void;
  arrange: () => void;
  meant: () => void;
  exclude: () => void;
  judgeOtherwise: () => void;
  comment: () => void;
  move: (way: 1 | -1) => void;
  undo: () => void;
  redo: () => void;
  keep: () => void;
  judged: () => void;
  desk: () => void;
  help: () => void;
}

/** Every action of the sheet by keyboard. Keys typed into a control, or meant for a focused button, are left alone. */
export function useSheetKeys(actions: SheetActions, listening: Listening) {
  useEffect(() => {
    const hear = (what: Heard) => () => listening.listen(what);
    const speed = (way: 1 | -1) => {
      const next = RATES[RATES.indexOf(listening.rate) + way];
      if (next !== undefined) listening.setRate(next);
    };
    const keys: Record<string, () => void> = {
      " ": hear("context"),
      p: hear("note"),
      t: hear("tone"),
      b: hear("both"),
      r: hear("ring"),
      f: hear("fixed"),
      g: hear("best"),
      ",": () => speed(1),
      ".": () => speed(-1),
      l: () => listening.setLoop(!listening.loop),
      c: () => listening.hasBeats && listening.setClick(!listening.click),
      arrowright: () => actions.go(1, false),
      arrowleft: () => actions.go(-1, false),
      "shift+arrowright": () => actions.go(1, true),
      "shift+arrowleft": () => actions.go(-1, true),
      arrowdown: () => actions.repeat(1),
      arrowup: () => actions.repeat(-1),
      e: actions.wholeRepeat,
      escape: actions.single,
      n: () => actions.fault(1),
      "shift+n": () => actions.fault(-1),
      "1": () => actions.cause(0),
      "2": () => actions.cause(1),
      "3": () => actions.cause(2),
      "+": actions.zoomIn,
      "=": actions.zoomIn,
      "-": actions.zoomOut,
      "0": actions.showWhole,
      z: actions.showChosen,
      v: actions.arrange,
      m: actions.meant,
      x: actions.exclude,
      j: actions.judgeOtherwise,
      k: actions.comment,
      "[": () => actions.move(-1),
      "]": () => actions.move(1),
      "ctrl+z": actions.undo,
      "ctrl+shift+z": actions.redo,
      y: actions.keep,
      enter: actions.judged,
      d: actions.desk,
      "?": actions.help,
    };
    const onKey = (event: KeyboardEvent) => {
      const target = event.target instanceof Element ? event.target : null;
      if (event.altKey || target?.closest("input, select, textarea, [role=dialog], [role=listbox]")) return;
      const pressed = event.key.toLowerCase();
      if ((pressed === " " || pressed === "enter") && target?.closest("button, a, summary, [role=combobox]"))
        return;
      const held = event.ctrlKey || event.metaKey;
      const named =
        (held ? "ctrl+" : "") +
        (event.shiftKey && /^([a-z]|arrow.*)$/.test(pressed) ? "shift+" : "") +
        pressed;
      const act = keys[named];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [actions, listening]);
}
