import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { api, type Take } from "~/api/client";
import { takesQuery } from "~/api/queries";
import { Sure } from "~/ui/Sure";

/** Deleting is for good, so it is asked once. */
export function DeleteTake({ take, onDeleted }: { take: Take; onDeleted: () => void }) {
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: async () => {
      await api.DELETE("/api/v1/takes/{take_id}", { params: { path: { take_id: take.id } } });
    },
    onSuccess: () => {
      onDeleted();
      queries.removeQueries({ queryKey: ["takes", take.id] });
      void queries.invalidateQueries({ queryKey: takesQuery.queryKey, exact: true });
    },
  });
  return (
    <Sure
      label={
        <>
          <Trash2 size={16} aria-hidden />
          Delete
        </>
      }
      title="Delete this take?"
      says={`The recording of ${take.student} and everything measured in it are deleted for good.`}
      yes="Delete for good"
      no="Keep it"
      act={remove}
    />
  );
}
