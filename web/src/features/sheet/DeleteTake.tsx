import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { api, type Take } from "~/api/client";
import { takesQuery } from "~/api/queries";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Failed } from "~/ui/states";

/** Deleting is for good, so it is asked once. */
export function DeleteTake({ take, onDeleted }: { take: Take; onDeleted: () => void }) {
  const [asking, setAsking] = useState(false);
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () => api.DELETE("/api/v1/takes/{take_id}", { params: { path: { take_id: take.id } } }),
    onSuccess: () => {
      setAsking(false);
      onDeleted();
      queries.removeQueries({ queryKey: ["takes", take.id] });
      void queries.invalidateQueries({ queryKey: takesQuery.queryKey, exact: true });
    },
  });
  return (
    <>
      <Button kind="quiet" className="min-h-9" onClick={() => setAsking(true)}>
        <Trash2 size={16} aria-hidden />
        Delete
      </Button>
      <Dialog
        open={asking}
        onOpenChange={setAsking}
        title="Delete this take?"
        description={`The recording of ${take.student} and everything measured in it are deleted for good.`}
      >
        {remove.error && <Failed error={remove.error} />}
        <div className="flex justify-end gap-3">
          <Button onClick={() => setAsking(false)}>Keep it</Button>
          <Button kind="strong" onClick={() => remove.mutate()} disabled={remove.isPending}>
            Delete for good
          </Button>
        </div>
      </Dialog>
    </>
  );
}
