import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type AgainAsk, type AgainRead, againQuery, estimateQuery } from "~/api/again";
import { api, data } from "~/api/client";
import { drillsQuery, studentsQuery } from "~/api/queries";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { AgainOrder } from "./AgainOrder";
import { takesWords, workWords } from "./again";

const ALL = "all";
const CHANGES = [["again"]];

/** Takes that an older version measured, measured once more: beside what counts, until the teacher keeps it. */
export function MeasureAgain({ zone }: { zone: string }) {
  const orders = useQuery(againQuery);
  const newest = orders.data?.[0];
  return (
    <section aria-label="Measure takes again" className="lg:col-span-2">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Measure takes again</h2>
      {orders.isPending && <Loading what="earlier orders" />}
      {orders.error && <Failed error={orders.error} onRetry={() => orders.refetch()} />}
      {newest && <AgainOrder order={newest} zone={zone} />}
      {orders.data && isOver(newest) && <Ask />}
    </section>
  );
}

const isOver = (order: AgainRead | undefined) => order === undefined || order.state === "kept";

function Ask() {
  const students = useQuery(studentsQuery);
  const drills = useQuery(drillsQuery);
  const [student, setStudent] = useState(ALL);
  const [drill, setDrill] = useState(ALL);
  const [allVersions, setAllVersions] = useState(false);
  const asked: AgainAsk = {
    student_id: student === ALL ? null : Number(student),
    drill_id: drill === ALL ? null : Number(drill),
    all_versions: allVersions,
  };
  const estimate = useQuery({ ...estimateQuery(asked), placeholderData: keepPreviousData });
  const order = useAct(() => data(api.POST("/api/v1/takes/again", { body: asked })), CHANGES);
  const none = estimate.data?.takes === 0;
  return (
    <form
      className="mt-3"
      onSubmit={(event) => {
        event.preventDefault();
        order.mutate();
      }}
    >
      <div className="flex flex-wrap items-end gap-3 *:min-w-56">
        <Select
          label="Whose takes"
          value={student}
          onChange={setStudent}
          choices={[
            { value: ALL, label: "All my students" },
            ...(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name })),
          ]}
        />
        <Select
          label="Of which drill"
          value={drill}
          onChange={setDrill}
          choices={[
            { value: ALL, label: "All drills" },
            ...(drills.data ?? []).map((d) => ({ value: String(d.id), label: d.title })),
          ]}
        />
        <Button type="submit" className="min-h-9 min-w-0!" disabled={order.isPending || none}>
          Measure again
        </Button>
      </div>
      <Tick
        className="mt-3"
        label="Also takes that this version has measured"
        checked={allVersions}
        onChange={setAllVersions}
      />
      {estimate.error && <Failed error={estimate.error} onRetry={() => estimate.refetch()} />}
      {estimate.data && (
        <p className="mt-2 max-w-prose text-sm text-ink-soft" data-testid="estimate">
          {none
            ? `There is nothing to measure again: what is measured was measured by this version (${estimate.data.core_version}) already.`
            : `${takesWords(estimate.data.takes)}, about ${workWords(estimate.data.minutes)} of work, done when nothing ` +
              "else is waiting. What counts stays until you keep the new results."}
        </p>
      )}
      {order.error && <Failed error={order.error} />}
    </form>
  );
}
