import { useNavigate } from "react-router";
import { soundBeside, spanOfAll } from "~/ui/take/sheet.math";
import type { Arrangement, Sheet } from "./sheetContext";
import type { Judging } from "./TakeHead";
import type { SheetActions } from "./useSheetKeys";
import { placesOf } from "./useWord";

/** What each key of the sheet does. A student may look, listen and comment; the rest is the teacher's. */
export function useSheetActions(sheet: Sheet, judging: Judging | null): SheetActions {
  const { measured, notes, choice, view, word, trying, teacher } = sheet;
  const { analysis, drill } = measured;
  const { selected, chosen } = choice;
  const navigate = useNavigate();
  const say = (kind: "meant" | "excluded") => {
    if (teacher && chosen.length && !word.pending) word.say({ kind, notes: placesOf(chosen), text: "" });
  };
  return {
    go: choice.go,
    repeat: choice.repeat,
    wholeRepeat: choice.wholeRepeat,
    single: () => (trying.trial ? trying.drop() : choice.single()),
    fault: choice.fault,
    cause: (number) => {
      const cause = analysis.causes[number];
      if (cause) sheet.showCause(cause);
    },
    zoomIn: view.zoomIn,
    zoomOut: view.zoomOut,
    showWhole: view.showWhole,
    showChosen: () => {
      const span = spanOfAll(chosen, drill.length_beats, view.axis);
      if (span) view.showSpan(...span);
    },
    arrange: () => {
      if (!sheet.several) return;
      const order: Arrangement[] = ["line", ...sheet.lanes];
      sheet.arrange(order[(order.indexOf(sheet.arrangement) + 1) % order.length] ?? "line");
    },
    meant: () => say("meant"),
    exclude: () => say("excluded"),
    judgeOtherwise: () => teacher && sheet.ask("verdict"),
    comment: () => sheet.ask("comment"),
    /** The selected note is another sound than was thought: the one heard before or after. */
    move: (way) => {
      if (!selected || !teacher) return;
      const { id, repeat } = selected.note;
      const at_s = soundBeside(notes, analysis.extras, selected, way, drill.length_beats, view.axis);
      if (at_s === null) return;
      const others = (measured.pins ?? []).filter((p) => p.id !== id || p.repeat !== repeat);
      trying.begin({ pins: [...others, { id, repeat, at_s }] });
    },
    undo: () => teacher && word.last && word.undo(word.last),
    redo: () => teacher && word.lastUndone && word.undo(word.lastUndone, false),
    keep: () => {
      if (trying.trial?.state === "measured" && !trying.trial.out_of_date && !trying.pending) trying.keep();
    },
    // Not while something is still being tried: which of both would be confirmed?
    judged: () => !trying.trial && judging?.judge(),
    desk: () => void navigate("/"),
    help: () => sheet.showHelp(true),
  };
}
