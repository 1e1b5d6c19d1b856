import { useState } from "react";
import type { ConsentGiven } from "~/api/consent";
import { Button } from "~/ui/Button";
import { Choice } from "~/ui/form/Choice";
import { Field } from "~/ui/form/Field";
import { Failed } from "~/ui/states";

/** Asked once, before the first recording: by the student, or for a minor by a parent or guardian. */
export function GiveConsent({
  student,
  words,
  own,
  pending,
  error,
  onAgree,
}: {
  student: string;
  words: string;
  /** Whether the student is who reads this. */
  own: boolean;
  pending: boolean;
  error: unknown;
  onAgree: (agreed: ConsentGiven) => void;
}) {
  const [by, setBy] = useState<ConsentGiven["by"] | "">("");
  const [name, setName] = useState("");
  return (
    <form
      aria-label="Consent to recording"
      data-testid="agree"
      className="my-4 max-w-2xl border-l-4 border-ink bg-sheet px-4 py-4"
      onSubmit={(event) => {
        event.preventDefault();
        if (by) onAgree({ by, name: by === "guardian" ? name : "" });
      }}
    >
      <h2 className="text-lg font-semibold">Consent to recording</h2>
      <p className="mt-1 mb-3" data-testid="agree-to">
        {words}
      </p>
      <Choice
        label="Who agrees"
        value={by}
        onChange={setBy}
        choices={[
          { value: "student", label: own ? "I am of age and agree" : `I am ${student}, of age, and agree` },
          { value: "guardian", label: `I am a parent or guardian of ${student} and agree` },
        ]}
      />
      {by === "guardian" && (
        <Field
          label="Your name"
          words
          className="mt-2 max-w-72"
          maxLength={120}
          autoComplete="name"
          value={name}
          onText={setName}
        />
      )}
      <Button
        kind="strong"
        type="submit"
        className="mt-4 min-h-11"
        disabled={!by || pending || (by === "guardian" && !name.trim())}
      >
        Agree
      </Button>
      {error !== null && error !== undefined && <Failed error={error} />}
    </form>
  );
}
