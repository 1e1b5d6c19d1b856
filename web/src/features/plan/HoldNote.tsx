import { api } from "~/api/client";
import { type Plan, plansKey } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";

/** Something hurt: every ladder rests, and it says so until somebody clears it. */
export function HoldNote({
  hold,
  studentId,
  teacher,
}: {
  hold: NonNullable<Plan["hold"]>;
  studentId: number;
  teacher: boolean;
}) {
  const clear = useAct(
    () => api.POST("/api/v1/plans/hold/{student_id}/clear", { params: { path: { student_id: studentId } } }),
    [plansKey],
  );
  return (
    <div className="mb-5 border-l-4 border-ink bg-sheet px-4 py-3" role="status" data-testid="hold">
      <p>
        <strong>{hold.says}</strong>
        {hold.text && ` “${hold.text}”`}
      </p>
      <p className="mt-1 text-sm text-ink-soft">
        Pain, numbness or tingling: stop, and do not practise through it. See a doctor or physiotherapist;
        nothing here is medical advice.
      </p>
      <Button className="mt-2" onClick={() => clear.mutate()} disabled={clear.isPending}>
        {teacher ? "It is over: let the ladders go on" : "It is over, I play without pain"}
      </Button>
      {clear.error && <Failed error={clear.error} />}
    </div>
  );
}
