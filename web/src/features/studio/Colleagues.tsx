import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Me } from "~/api/client";
import { meQuery } from "~/api/queries";
import { type Colleague, colleaguesQuery } from "~/api/week";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { LinkOnce } from "~/ui/LinkOnce";
import { Select } from "~/ui/Select";
import { Sure } from "~/ui/Sure";
import { Failed, Loading } from "~/ui/states";

/** The teachers of the studio. Students are seen by their own teacher alone. */
export function Colleagues({ me }: { me: Me }) {
  const rows = useQuery(colleaguesQuery);
  const [leaving, setLeaving] = useState<Colleague | null>(null);
  const reset = useAct(
    (id: number) =>
      data(api.POST("/api/v1/colleagues/{user_id}/reset-link", { params: { path: { user_id: id } } })),
    [],
  );
  return (
    <section aria-label="Teachers">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Teachers</h2>
      {rows.isPending && <Loading what="teachers" />}
      {rows.error && <Failed error={rows.error} onRetry={() => rows.refetch()} />}
      <ul data-testid="colleagues">
        {(rows.data ?? []).map((row) => (
          <li
            key={row.id}
            className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-rule py-2"
          >
            <span className="mr-auto">
              <strong>{row.name}</strong>
              {row.leads && ", leads"}
              <span className="block text-sm text-ink-soft">
                {row.email}, {row.students} {row.students === 1 ? "student" : "students"}
              </span>
            </span>
            {me.leads && row.email !== me.email && (
              <>
                <Button kind="quiet" onClick={() => reset.mutate(row.id)}>
                  New password
                </Button>
                <Lead colleague={row} />
                <Button kind="quiet" onClick={() => setLeaving(row)}>
                  Leaves
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      {reset.data && <LinkOnce link={reset.data.link} says="With this link the new password is set, once." />}
      {reset.error && <Failed error={reset.error} />}
      {leaving && <Leaves colleague={leaving} others={rows.data ?? []} onClose={() => setLeaving(null)} />}
    </section>
  );
}

function Lead({ colleague }: { colleague: Colleague }) {
  const lead = useAct(
    () => api.POST("/api/v1/colleagues/{user_id}/lead", { params: { path: { user_id: colleague.id } } }),
    [["colleagues"], meQuery.queryKey],
  );
  return (
    <Sure
      label="Give the lead"
      title={`Does ${colleague.name} lead the studio?`}
      says="From then on they invite and part with teachers and take the archive out; you no longer do. Only they can give it back."
      yes="Give the lead"
      no="Keep it"
      act={lead}
    />
  );
}

function Leaves({
  colleague,
  others,
  onClose,
}: {
  colleague: Colleague;
  others: Colleague[];
  onClose: () => void;
}) {
  const [to, setTo] = useState("");
  const part = useAct(
    () =>
      api.POST("/api/v1/colleagues/{user_id}/part", {
        params: { path: { user_id: colleague.id } },
        body: { students_to: to ? Number(to) : null },
      }),
    [["colleagues"], ["students"]],
    onClose,
  );
  return (
    <Dialog
      open
      onOpenChange={(now) => !now && onClose()}
      title={`${colleague.name} leaves the studio`}
      description="The account no longer signs in. Students and everything of theirs go to the teacher you choose."
    >
      {colleague.students > 0 && (
        <Select
          label="Who teaches their students"
          value={to}
          onChange={setTo}
          choices={others
            .filter((o) => o.id !== colleague.id)
            .map((o) => ({ value: String(o.id), label: o.name }))}
        />
      )}
      {part.error && <Failed error={part.error} />}
      <div className="mt-5 flex justify-end gap-3">
        <Button onClick={onClose}>Back</Button>
        <Button kind="strong" onClick={() => part.mutate()} disabled={part.isPending}>
          Part
        </Button>
      </div>
    </Dialog>
  );
}
