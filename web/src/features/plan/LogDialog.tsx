import { useState } from "react";
import { api } from "~/api/client";
import { type Assignment, plansKey } from "~/api/week";
import { typedNumber } from "~/lib/typed";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Failed } from "~/ui/states";

export interface LogStart {
  kind: "practice" | "note" | "discomfort";
  assignment?: Assignment;
  minutes?: number;
}

const TITLES = { practice: "Played", note: "A note", discomfort: "Something hurts" };

/** A line for the logbook. */
export function LogDialog({
  studentId,
  start,
  onClose,
}: {
  studentId: number;
  start: LogStart;
  onClose: () => void;
}) {
  const { kind, assignment } = start;
  const [minutes, setMinutes] = useState(start.minutes === undefined ? "" : String(start.minutes));
  const [text, setText] = useState("");
  const write = useAct(
    () =>
      api.POST("/api/v1/plans/log", {
        body: {
          student_id: studentId,
          kind,
          day: null,
          minutes: kind === "practice" ? typedNumber(minutes, "How long") : null,
          text,
          assignment_id: assignment?.id ?? null,
        },
      }),
    [plansKey],
    onClose,
  );
  return (
    <Dialog open onOpenChange={(now) => !now && onClose()} title={assignment?.drill ?? TITLES[kind]}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          write.mutate();
        }}
      >
        {kind === "discomfort" && (
          <p className="text-sm">
            Stop for today. Your ladders rest until you or your teacher clear this. If it does not go away
            soon, see a doctor or physiotherapist; nothing here is medical advice.
          </p>
        )}
        {kind === "practice" && (
          <Field
            label="How long"
            unit="min"
            inputMode="decimal"
            className="w-32"
            value={minutes}
            onText={setMinutes}
          />
        )}
        <label className="flex flex-col gap-1 text-sm text-ink-soft">
          {kind === "discomfort" ? "Where, and how" : "A note, if you like"}
          <textarea
            className="min-h-20 rounded-md border border-rule-strong bg-paper px-2 py-1 text-base text-ink"
            maxLength={1000}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        {write.error && <Failed error={write.error} />}
        <div className="flex justify-end gap-3">
          <Button className="min-h-11" onClick={onClose}>
            Back
          </Button>
          <Button kind="strong" className="min-h-11" type="submit" disabled={write.isPending}>
            {kind === "discomfort" ? "Stop here" : "Log it"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
