import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";
import type { SheetNote } from "~/ui/take/notes.math";
import { Comment, JudgeOtherwise } from "./AskWord";
import { Said } from "./Said";
import { useSheet } from "./sheetContext";
import { isAmong, placesOf } from "./useWord";

/** What a teacher may say of the selected notes, and what was said. */
export function WordPanel({ selected }: { selected: SheetNote }) {
  const { word, choice, teacher, me, asking, askedOf, ask } = useSheet();
  const { chosen } = choice;
  const notes = chosen.length > 1 ? chosen : [selected];
  const own = word.marks.filter((m) => isAmong(m.mark.notes, selected));
  const of = notes.length > 1 ? `${notes.length} notes` : "this note";
  return (
    <section aria-label="Your review" className="mt-3 border-t border-rule pt-2" data-testid="word">
      <h3 className="text-sm font-semibold">
        {teacher ? "Your review of " : "About "}
        {of}
      </h3>
      <div className="mt-1 flex flex-wrap gap-1 print:hidden">
        {teacher && (
          <>
            <Button
              className="px-1.5! text-xs!"
              aria-keyshortcuts="M"
              title="Key: M"
              disabled={word.pending}
              onClick={() => word.say({ kind: "meant", notes: placesOf(notes), text: "" })}
            >
              Intentional
            </Button>
            <Button
              className="px-1.5! text-xs!"
              aria-keyshortcuts="X"
              title="Key: X"
              disabled={word.pending}
              onClick={() => word.say({ kind: "excluded", notes: placesOf(notes), text: "" })}
            >
              Exclude
            </Button>
            <Button
              className="px-1.5! text-xs!"
              aria-keyshortcuts="J"
              title="Key: J"
              onClick={() => ask("verdict")}
            >
              Change verdict
            </Button>
          </>
        )}
        <Button
          className="px-1.5! text-xs!"
          aria-keyshortcuts="K"
          title="Key: K"
          onClick={() => ask("comment")}
        >
          Comment
        </Button>
      </div>
      {word.error !== null && word.error !== undefined && <Failed error={word.error} />}
      {own.length > 0 && (
        <ul className="mt-2 text-sm" data-testid="words">
          {own.map((mark) => (
            <li key={mark.id} className="border-b border-rule">
              <Said mark={mark} word={word} zone={me.zone} mayUndo={teacher} />
            </li>
          ))}
        </ul>
      )}
      <JudgeOtherwise
        key={askedOf ?? "whole"}
        first={askedOf}
        open={asking === "verdict"}
        onOpenChange={(open) => ask(open ? "verdict" : null)}
        word={word}
        notes={notes}
        of={of}
      />
      <Comment
        open={asking === "comment"}
        onOpenChange={(open) => ask(open ? "comment" : null)}
        word={word}
        notes={notes}
        of={of}
      />
    </section>
  );
}
