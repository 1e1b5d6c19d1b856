import type { Mark, MarkRead } from "~/api/client";
import { dayAndTime, measureWords, verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import type { Word } from "./useWord";

const KINDS: Record<Mark["kind"], string> = {
  meant: "Intentional",
  excluded: "Excluded",
  verdict: "Judged otherwise",
  comment: "Comment",
};

/** One word with who and when; taken back it stays, struck through. */
export function Said({
  mark,
  word,
  zone,
  mayUndo,
}: {
  mark: MarkRead;
  word: Word;
  zone: string;
  mayUndo: boolean;
}) {
  const { kind, measure, verdict, text } = mark.mark;
  const undone = mark.undone_at !== null;
  return (
    <div className="flex items-baseline gap-2 py-1" data-undone={undone}>
      <span className={undone ? "text-ink-soft line-through" : ""}>
        <strong className="font-semibold">{KINDS[kind]}</strong>
        {measure ? ` (${measureWords(measure)})` : ""}
        {verdict ? `: ${verdictWords(verdict)}` : ""}
        {text ? `: ${text}` : ""}
        <span className="block text-xs text-ink-soft">
          {mark.made_by ?? "somebody"}, {dayAndTime(mark.made_at, zone)}
          {undone && `; taken back by ${mark.undone_by ?? "somebody"}`}
        </span>
      </span>
      {mayUndo && (
        <Button
          kind="quiet"
          className="ml-auto min-h-7 px-1.5 print:hidden"
          disabled={word.pending}
          onClick={() => word.undo(mark, !undone)}
        >
          {undone ? "Count again" : "Take back"}
        </Button>
      )}
    </div>
  );
}
