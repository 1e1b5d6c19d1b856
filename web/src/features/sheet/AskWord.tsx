import { useState } from "react";
import type { Mark } from "~/api/client";
import { measureWords, verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import type { SheetNote } from "~/ui/take/notes.math";
import { placesOf, type Word } from "./useWord";
import type { Measure } from "./values/Value";

interface AskProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  word: Word;
  notes: readonly SheetNote[];
  of: string;
}

const WHOLE = "whole";

/** Another verdict than the measured one, with a reason. */
export function JudgeOtherwise({
  open,
  onOpenChange,
  word,
  notes,
  of,
  first,
}: AskProps & { first: Measure | null }) {
  const [verdict, setVerdict] = useState("inside");
  const [measure, setMeasure] = useState<string>(first ?? WHOLE);
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

/** What the student should read at these notes. */
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
