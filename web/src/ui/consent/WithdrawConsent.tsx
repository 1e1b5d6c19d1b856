import { useState } from "react";
import { api, data } from "~/api/client";
import { consentQuery } from "~/api/consent";
import { studentsQuery } from "~/api/queries";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Tick } from "~/ui/form/Tick";
import { Failed } from "~/ui/states";

/** Taking an agreement back, if wished with all recordings. */
export function WithdrawConsent({ studentId, name }: { studentId: number; name: string }) {
  const [asking, setAsking] = useState(false);
  const [also, setAlso] = useState(false);
  const path = { params: { path: { student_id: studentId } } };
  const back = useAct(
    async () => {
      await data(api.DELETE("/api/v1/students/{student_id}/consent", path));
      if (also) await data(api.DELETE("/api/v1/reports/students/{student_id}/recordings", path));
    },
    [studentsQuery.queryKey, consentQuery(studentId).queryKey, ["takes"], ["audit"]],
    () => setAsking(false),
  );
  return (
    <>
      <Button kind="quiet" onClick={() => setAsking(true)}>
        Withdraw
      </Button>
      <Dialog
        open={asking}
        onOpenChange={setAsking}
        title={`No more recordings of ${name}?`}
        description="From now on nothing is recorded or uploaded, until somebody agrees again."
      >
        <Tick
          className="min-h-9"
          label="delete all recordings there are, too; the results stay"
          checked={also}
          onChange={setAlso}
        />
        {back.error && <Failed error={back.error} />}
        <div className="mt-5 flex justify-end gap-3">
          <Button onClick={() => setAsking(false)}>Cancel</Button>
          <Button kind="strong" disabled={back.isPending} onClick={() => back.mutate()}>
            {also ? "Withdraw and delete" : "Withdraw"}
          </Button>
        </div>
      </Dialog>
    </>
  );
}
