import { api, data, Problem } from "~/api/client";
import { plansKey, type Step } from "~/api/week";
import { useAct } from "~/lib/useAct";

/** What is done to one ladder; a proposal that changed meanwhile is refused with what it says now. */
export function useSteps(assignmentId: number) {
  const path = { params: { path: { assignment_id: assignmentId } } };
  const confirm = useAct(
    (says: string) =>
      data(api.POST("/api/v1/plans/assignments/{assignment_id}/confirm", { ...path, body: { says } })),
    [plansKey],
  );
  const putOff = useAct(
    () => data(api.POST("/api/v1/plans/assignments/{assignment_id}/put-off", path)),
    [plansKey],
  );
  const set = useAct(
    ({ step, why }: { step: Step; why: string }) =>
      data(api.PUT("/api/v1/plans/assignments/{assignment_id}/step", { ...path, body: { step, why } })),
    [plansKey],
  );
  const error = confirm.error ?? putOff.error ?? set.error;
  return { confirm, putOff, set, problem: error instanceof Problem ? error.message : null };
}
