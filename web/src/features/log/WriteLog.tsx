import { useState } from "react";
import { api } from "~/api/client";
import { plansKey } from "~/api/week";
import { typedNumber } from "~/lib/typed";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { DayField } from "~/ui/form/DayField";
import { Field } from "~/ui/form/Field";
import { Failed } from "~/ui/states";

/** Minutes or a note, for a day of the last two months. */
export function WriteLog({ studentId }: { studentId: number }) {
  const [minutes, setMinutes] = useState("");
  const [day, setDay] = useState("");
  const [text, setText] = useState("");
  const write = useAct(
    () => {
      const played = typedNumber(minutes, "Minutes");
      return api.POST("/api/v1/plans/log", {
        body: {
          student_id: studentId,
          kind: played === null ? "note" : "practice",
          day: day || null,
          minutes: played,
          text,
          assignment_id: null,
        },
      });
    },
    [plansKey],
    () => {
      setMinutes("");
      setText("");
    },
  );
  return (
    <form
      className="flex flex-col gap-3"
      aria-label="Write in the logbook"
      onSubmit={(event) => {
        event.preventDefault();
        write.mutate();
      }}
    >
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Add an entry</h2>
      <div className="grid grid-cols-2 gap-3">
        <Field label="Minutes" inputMode="decimal" value={minutes} onText={setMinutes} />
        <DayField label="Day (empty: today)" value={day} onDay={setDay} />
      </div>
      <label className="flex flex-col gap-1 text-sm text-ink-soft">
        Note
        <textarea
          className="min-h-20 rounded-md border border-rule-strong bg-sheet px-2 py-1 text-base text-ink"
          maxLength={1000}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <Button type="submit" className="self-start" disabled={write.isPending || (!minutes && !text.trim())}>
        Write it down
      </Button>
      {write.error && <Failed error={write.error} />}
    </form>
  );
}
