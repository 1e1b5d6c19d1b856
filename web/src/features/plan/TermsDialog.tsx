import { useState } from "react";
import { api, data } from "~/api/client";
import { type Assignment, plansKey } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Failed } from "~/ui/states";
import { TermsForm } from "./TermsForm";
import { fieldsOf, termsOf } from "./terms.math";

/** Other terms for what is assigned already. */
export function TermsDialog({
  assignment,
  others,
  onClose,
}: {
  assignment: Assignment;
  others: Assignment[];
  onClose: () => void;
}) {
  const [fields, setFields] = useState(() => fieldsOf(assignment));
  const path = { params: { path: { assignment_id: assignment.id } } };
  const change = useAct(
    () =>
      data(
        api.PUT("/api/v1/plans/assignments/{assignment_id}", {
          ...path,
          body: { ...termsOf(fields), begins: assignment.begins },
        }),
      ),
    [plansKey],
    onClose,
  );
  const end = useAct(
    () => api.DELETE("/api/v1/plans/assignments/{assignment_id}", path),
    [plansKey],
    onClose,
  );
  return (
    <Dialog open onOpenChange={(now) => !now && onClose()} title={assignment.drill} wide>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <TermsForm
          fields={fields}
          onChange={(part) => setFields((now) => ({ ...now, ...part }))}
          free={assignment.step.bpm === null}
          others={others.filter((o) => o.id !== assignment.id)}
          begins={false}
        />
        {(change.error ?? end.error) && <Failed error={change.error ?? end.error} />}
        <div className="mt-5 flex justify-end gap-3">
          <Button className="mr-auto" onClick={() => end.mutate()} disabled={end.isPending}>
            Let it rest
          </Button>
          <Button onClick={onClose}>Leave it</Button>
          <Button kind="strong" type="submit" disabled={change.isPending}>
            Change it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
