import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "~/api/client";
import { type Keeping, keepingQuery } from "~/api/consent";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Failed, Loading } from "~/ui/states";

const MOST_MONTHS = 240;

/** How long recordings, and everything of former students, are kept. */
export function KeepingForm() {
  const keeping = useQuery(keepingQuery);
  return (
    <section aria-label="How long things are kept">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">How long things are kept</h2>
      {keeping.isPending && <Loading what="the rule" />}
      {keeping.error && <Failed error={keeping.error} onRetry={() => keeping.refetch()} />}
      {keeping.data && <Form keeping={keeping.data} />}
    </section>
  );
}

const text = (months: number | null | undefined) => (months == null ? "" : String(months));
const months = (said: string) => (said.trim() === "" ? null : Number(said));
const isRight = (said: string) => {
  const count = months(said);
  return count === null || (Number.isInteger(count) && count >= 1 && count <= MOST_MONTHS);
};

function Form({ keeping }: { keeping: Keeping }) {
  const [recordings, setRecordings] = useState(text(keeping.recordings_months));
  const [former, setFormer] = useState(text(keeping.former_months));
  const change = useAct(
    () =>
      data(
        api.PUT("/api/v1/studio/keeping", {
          body: { recordings_months: months(recordings), former_months: months(former) },
        }),
      ),
    [keepingQuery.queryKey, ["audit"]],
  );
  return (
    <form
      className="mt-3"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <Field
          label="Recordings"
          unit="months"
          inputMode="numeric"
          className="w-36"
          value={recordings}
          onText={setRecordings}
        />
        <Field
          label="Students who left"
          unit="months"
          inputMode="numeric"
          className="w-36"
          value={former}
          onText={setFormer}
        />
        <Button
          type="submit"
          className="min-h-9"
          disabled={change.isPending || !isRight(recordings) || !isRight(former)}
        >
          Save
        </Button>
      </div>
      <p className="mt-2 max-w-prose text-sm text-ink-soft">
        Empty: until somebody deletes them. Recordings are deleted and their results stay; of students who
        left everything is deleted. Each is announced a month before, here and by mail, and a new rule begins
        a month from now.
      </p>
      {change.isSuccess && <p role="status">Saved.</p>}
      {change.error && <Failed error={change.error} />}
    </form>
  );
}
