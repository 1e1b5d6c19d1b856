import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Me } from "~/api/client";
import { weekQuery } from "~/api/week";
import { beginKeeping, canKeep, endKeeping, isKeeping, keepDay } from "~/lib/offline";
import { Tick } from "~/ui/form/Tick";
import { Failed } from "~/ui/states";

/** Whether this device keeps the student's day for practising without a connection. */
export function Offline({ me }: { me: Me }) {
  const [on, setOn] = useState(isKeeping);
  const queries = useQueryClient();
  const id = me.student_id ?? 0;
  const keep = useMutation({
    mutationFn: async (wanted: boolean) => {
      if (!wanted) return endKeeping();
      await beginKeeping();
      await keepDay(queries, id, await queries.fetchQuery(weekQuery(id)));
    },
    onSuccess: (_, wanted) => setOn(wanted),
  });
  return (
    <section aria-label="Without a connection">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Without a connection</h2>
      {canKeep() ? (
        <>
          <p className="mt-3 max-w-prose">
            This device can keep your practice day: Today, its drills and the recorder then work where there
            is no connection, and takes are sent when there is one again. Whoever has the device open can see
            what it keeps; signing out deletes it.
          </p>
          <Tick
            className="mt-3 min-h-11"
            label={keep.isPending ? "One moment …" : "Keep my practice day on this device"}
            checked={on}
            disabled={keep.isPending}
            onChange={(wanted) => keep.mutate(wanted)}
          />
          {keep.error && <Failed error={keep.error} />}
        </>
      ) : (
        <p className="mt-3 max-w-prose text-ink-soft">
          This browser cannot keep pages. Takes that could not be sent are still kept and sent later.
        </p>
      )}
    </section>
  );
}
