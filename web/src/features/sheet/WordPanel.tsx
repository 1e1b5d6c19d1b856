import { useState } from "react";
import type { Mark, MarkRead } from "~/api/client";
import { dayAndTime, measureWords, verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";
import type { SheetNote } from "~/ui/take/notes.math";
import { isAmong, placesOf, type Word } from "./useWord";

export type Asking = "verdict" | "comment" | null;

const KINDS: Record<Mark["kind"], string> = {
  meant: "Meant",
  excluded: "Excluded",
  verdict: "Judged otherwise",
  comment: "Comment",
};

export interface WordPanelProps {
  word: Word;
  selected: SheetNote;
  chosen: readonly SheetNote[];
  teacher: boolean;
  zone: string;
  asking: Asking;
  onAsk: (asking: Asking) => void;
}

/** What a teacher may say of the selected notes, and what was said. */
export function WordPanel({ word, selected, chosen, teacher, zone, asking, onAsk }: WordPanelProps) {
  const notes = chosen.length > 1 ? chosen : [selected];
  const own = word.marks.filter((m) => isAmong(m.mark.notes, selected));
  const of = notes.length > 1 ? `${notes.length} notes` : "this note";
  return (
    <section aria-label="Your word" className="mt-3 border-t border-rule pt-2" data-testid="word">
      <h3 className="text-sm font-semibold">
        {teacher ? "Your word on " : "About "}
        {of}
      </h3>
      <div className="mt-1 flex flex-wrap gap-1.5 print:hidden">
        {teacher && (
          <>
            <Button
              className="px-2"
              aria-keyshortcuts="M"
              title="Key: M"
              disabled={word.pending}
              onClick={() => word.say({ kind: "meant", notes: placesOf(notes), text: "" })}
            >
              Meant
            </Button>
            <Button
              className="px-2"
              aria-keyshortcuts="X"
              title="Key: X"
              disabled={word.pending}
              onClick={() => word.say({ kind: "excluded", notes: placesOf(notes), text: "" })}
            >
              Does not count
            </Button>
            <Button className="px-2" aria-keyshortcuts="J" title="Key: J" onClick={() => onAsk("verdict")}>
              Judge otherwise
            </Button>
          </>
        )}
        <Button className="px-2" aria-keyshortcuts="K" title="Key: K" onClick={() => onAsk("comment")}>
          Comment
        </Button>
      </div>
      {word.error !== null && word.error !== undefined && <Failed error={word.error} />}
      {own.length > 0 && (
        <ul className="mt-2 text-sm" data-testid="words">
          {own.map((mark) => (
            <li key={mark.id} className="border-b border-rule">
              <Said mark={mark} word={word} zone={zone} mayUndo={teacher} />
            </li>
          ))}
        </ul>
      )}
      <Judge
        open={asking === "verdict"}
        onOpenChange={(open) => onAsk(open ? "verdict" : null)}
        word={word}
        notes={notes}
        of={of}
      />
      <Comment
        open={asking === "comment"}
        onOpenChange={(open) => onAsk(open ? "comment" : null)}
        word={word}
        notes={notes}
        of={of}
      />
    </section>
  );
}

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

interface AskProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  word: Word;
  notes: readonly SheetNote[];
  of: string;
}

const WHOLE = "whole";

function Judge({ open, onOpenChange, word, notes, of }: AskProps) {
  const [verdict, setVerdict] = useState("inside");
  const [measure, setMeasure] = useState(WHOLE);
  const [why, setWhy] = useState("");
  const measures = (["pitch", "bend", "vibrato", "timing", "level", "length", "noise"] as const).filter((m) =>
    notes.some(({ note }) => note[m]?.verdict != null),
  );
  const say = () => {
    word.say({
      kind: "verdict",
      notes: placesOf(notes),
      verdict: verdict as NonNullable<Mark["verdict"]>,
      measure: measure === WHOLE ? null : (measure as NonNullable<Mark["measure"]>),
      text: why.trim(),
    });
    setWhy("");
    onOpenChange(false);
  };
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={`Judge ${of} otherwise`}
      description="The measured value stays, and so does who said this and when."
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          if (why.trim()) say();
        }}
      >
        <div className="grid grid-cols-2 gap-4">
          <Select
            label="What"
            value={measure}
            onChange={setMeasure}
            choices={[
              { value: WHOLE, label: "the note as a whole" },
              ...measures.map((m) => ({ value: m, label: measureWords(m) })),
            ]}
          />
          <Select
            label="Counts as"
            value={verdict}
            onChange={setVerdict}
            choices={(["inside", "outside", "unclear"] as const).map((v) => ({
              value: v,
              label: verdictWords(v),
            }))}
          />
        </div>
        <Field label="Why" value={why} onText={setWhy} words autoFocus maxLength={1000} />
        <div className="flex justify-end gap-3">
          <Button onClick={() => onOpenChange(false)}>Leave it</Button>
          <Button kind="strong" type="submit" disabled={!why.trim()}>
            Judge so
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

export function Comment({ open, onOpenChange, word, notes, of }: AskProps) {
  const [text, setText] = useState("");
  const say = () => {
    const at = notes[0]?.note.onset_s ?? null;
    word.say({ kind: "comment", notes: placesOf(notes), at_s: at, text: text.trim() });
    setText("");
    onOpenChange(false);
  };
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={`Comment on ${of}`}>
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim()) say();
        }}
      >
        <Field
          label="What the student should read here"
          value={text}
          onText={setText}
          words
          autoFocus
          maxLength={1000}
        />
        <div className="flex justify-end gap-3">
          <Button onClick={() => onOpenChange(false)}>Leave it</Button>
          <Button kind="strong" type="submit" disabled={!text.trim()}>
            Write it there
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
