import { useState } from "react";
import type { ConsentStated } from "~/api/consent";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Choice } from "~/ui/form/Choice";
import { Field } from "~/ui/form/Field";
import { Failed } from "~/ui/states";
import { DayField } from "../form/DayField";

/** A teacher writes down who agreed, how and when; of one student, or the same of several. */
export function EnterConsent({
  students,
  pending,
  error,
  onState,
  onClose,
}: {
  students: readonly string[];
  pending: boolean;
  error: unknown;
  onState: (said: ConsentStated) => void;
  onClose: () => void;
}) {
  const [by, setBy] = useState<ConsentStated["by"]>("student");
  const [way, setWay] = useState<ConsentStated["way"]>("writing");
  const [name, setName] = useState("");
  const [day, setDay] = useState("");
  const several = students.length > 1;
  const named = by === "guardian" && !several;
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title={
        several ? `Consent to recording, ${students.length} students` : `Consent to recording: ${students[0]}`
      }
      description={
        several
          ? `Enter what you were given for ${students.join(", ")}. Who has given theirs another way is entered on their own page.`
          : "Enter who gave it, how, and when."
      }
    >
      <form
        className="grid gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          onState({ by, way, name: named ? name : "", day: day || null });
        }}
      >
        <Choice
          label="Who gave it"
          value={by}
          onChange={setBy}
          choices={[
            { value: "student", label: several ? "Each student, being of age" : "The student, being of age" },
            { value: "guardian", label: several ? "A parent or guardian of each" : "A parent or guardian" },
          ]}
        />
        {named && (
          <Field
            label="Their name"
            words
            className="max-w-72"
            maxLength={120}
            required={way === "word"}
            value={name}
            onText={setName}
          />
        )}
        <Choice
          label="How"
          value={way}
          onChange={setWay}
          choices={[
            { value: "writing", label: "In writing; the studio keeps the form" },
            ...(several && by === "guardian" ? [] : [{ value: "word" as const, label: "By word of mouth" }]),
          ]}
        />
        <div className="max-w-52">
          <DayField label="On which day (empty: today)" value={day} onDay={setDay} />
        </div>
        {error !== null && error !== undefined && <Failed error={error} />}
        <div className="flex justify-end gap-3">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button kind="strong" type="submit" disabled={pending}>
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
