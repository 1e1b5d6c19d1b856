import { useState } from "react";
import { Button } from "~/ui/Button";
import { keyOf } from "~/ui/take/notes.math";
import { Comment } from "./AskWord";
import { Said } from "./Said";
import { useSheet } from "./sheetContext";

/** Everything that was said of a take, in its order, each a way to its notes. */
export function TakeWords() {
  const { word, me, teacher, notes, choice } = useSheet();
  const [asking, setAsking] = useState(false);
  return (
    <section aria-label="Comments and reviews" className="mb-6" data-testid="take-words">
      <div className="flex items-baseline gap-3">
        <h2 className="text-lg font-semibold">Comments and reviews</h2>
        <Button className="min-h-7 px-2 print:hidden" onClick={() => setAsking(true)}>
          Comment on the take
        </Button>
      </div>
      <Comment open={asking} onOpenChange={setAsking} word={word} notes={[]} of="the take" />
      {word.marks.length === 0 && <p className="text-sm text-ink-soft">Nothing yet.</p>}
      <ul className="text-sm">
        {word.marks.map((mark) => {
          const first = mark.mark.notes?.[0];
          const count = mark.mark.notes?.length ?? 0;
          const at =
            first && notes.find((n) => keyOf(n.note.id, n.note.repeat) === keyOf(first.id, first.repeat));
          return (
            <li key={mark.id} className="flex items-baseline gap-3 border-b border-rule">
              <span className="w-40 shrink-0">
                {at ? (
                  <button type="button" className="underline" onClick={() => choice.select(at.key)}>
                    note {at.place}
                    {count > 1 ? ` and ${count - 1} more` : ""}
                  </button>
                ) : mark.mark.at_s != null ? (
                  `the sound at ${mark.mark.at_s.toFixed(2)} s`
                ) : (
                  "the take"
                )}
              </span>
              <div className="min-w-0 flex-1">
                <Said mark={mark} word={word} zone={me.zone} mayUndo={teacher} />
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
