import { useEffect } from "react";

export const DESK_KEYS: [string, string][] = [
  ["↑ ↓", "the take before, the take after"],
  ["Enter", "open its sheet"],
  ["S", "select it, for several at once"],
  ["A", "select every take that is clean"],
  ["J", "judged: the selected takes, or this one"],
  ["N", "confirm the next step of its ladder"],
  ["Z", "take the last back to the Desk"],
  ["W", "what waits, what is judged, all"],
  ["U", "add a recording"],
  ["?", "this list"],
];

export interface DeskActions {
  go: (way: 1 | -1) => void;
  open: () => void;
  pick: () => void;
  pickClean: () => void;
  judge: () => void;
  step: () => void;
  back: () => void;
  show: () => void;
  help: () => void;
}

/** The Desk by keyboard; keys typed into a control, or meant for a focused button, are left alone. */
export function useDeskKeys(actions: DeskActions) {
  useEffect(() => {
    const keys: Record<string, () => void> = {
      arrowdown: () => actions.go(1),
      arrowup: () => actions.go(-1),
      enter: actions.open,
      s: actions.pick,
      a: actions.pickClean,
      j: actions.judge,
      n: actions.step,
      z: actions.back,
      w: actions.show,
      "?": actions.help,
    };
    const onKey = (event: KeyboardEvent) => {
      const target = event.target instanceof Element ? event.target : null;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (
        target?.closest(
          "input:not([type=checkbox]), select, textarea, [role=dialog], [role=listbox], [role=combobox]",
        )
      )
        return;
      if (event.key === "Enter" && target?.closest("button, a")) return;
      const act = keys[event.key.toLowerCase()];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [actions]);
}
