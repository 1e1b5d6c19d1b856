import { keyOf, type SheetNote } from "~/ui/take/notes.math";
import type { Word } from "./useWord";
import { Said } from "./WordPanel";

/** Everything that was said of a take, in its order, each a way to its notes. */
export function TakeWords({
  word,
  zone,
  teacher,
  notes,
  onSelect,
}: {
  word: Word;
  zone: string;
  teacher: boolean;
  notes: readonly SheetNote[];
  onSelect: (key: string) => void;
}) {
  if (word.marks.length === 0) return null;
  return (
    <section aria-label="What was said" className="mb-6" data-testid="take-words">
      <h2 className="text-lg font-semibold">What was said</h2>
      <ul className="text-sm">
        {word.marks.map((mark) => {
          const first = mark.mark.notes?.[0];
          const count = mark.mark.notes?.length ?? 0;
          const at =
            first && notes.find((n) => keyOf(n.note.id, n.note.repeat) === keyOf(first.id, first.repeat));
          return (
            <div key={mark.id} className="flex items-baseline gap-3">
              <span className="w-36 shrink-0">
                {at ? (
                  <button type="button" className="underline" onClick={() => onSelect(at.key)}>
                    note {at.place}
                    {count > 1 ? ` and ${count - 1} more` : ""}
                  </button>
                ) : (
                  "the take"
                )}
              </span>
              <div className="min-w-0 flex-1">
                <Said mark={mark} word={word} zone={zone} mayUndo={teacher} />
              </div>
            </div>
          );
        })}
      </ul>
    </section>
  );
}
