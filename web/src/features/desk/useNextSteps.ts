import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type DeskRow, data, Problem } from "~/api/client";
import { type Proposal, plansKey, proposalsQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";

export type NextSteps = ReturnType<typeof useNextSteps>;

/** Steps that ladders propose, beside the newest take of their student and drill; confirmed with one key. */
export function useNextSteps(teacher: boolean, rows: readonly DeskRow[], newest: number) {
  const proposals = useQuery({ ...proposalsQuery, enabled: teacher });
  const { refetch } = proposals;
  // A take that was measured, judged or marked may have moved a ladder.
  useEffect(() => {
    if (teacher && newest) void refetch();
  }, [teacher, newest, refetch]);
  const [said, setSaid] = useState<string | null>(null);
  const act = useAct(
    (p: Proposal) =>
      data(
        api.POST("/api/v1/plans/assignments/{assignment_id}/confirm", {
          params: { path: { assignment_id: p.assignment_id } },
          body: { says: p.says },
        }),
      ),
    [plansKey],
    (ladder, p) => setSaid(`${p.student}: ${p.drill} now stands at ${ladder.assignment.step_words}.`),
  );
  const first = new Map<string, Proposal>();
  const left = new Map((proposals.data ?? []).map((p) => [`${p.student_id}/${p.drill_id}`, p]));
  // The newest is among those it rests on.
  for (const row of [...rows].sort((a, b) => b.played_at.localeCompare(a.played_at))) {
    const key = `${row.student_id}/${row.drill_id}`;
    const found = left.get(key);
    if (!found) continue;
    first.set(row.id, found);
    left.delete(key);
  }
  const of = (row: DeskRow) => first.get(row.id);
  const confirm = (proposal: Proposal | undefined) => {
    if (proposal && !act.isPending) act.mutate(proposal);
  };
  const problem = act.error instanceof Problem ? act.error.message : null;
  return { of, confirm, said: problem ?? said, pending: act.isPending, all: proposals.data ?? [] };
}
