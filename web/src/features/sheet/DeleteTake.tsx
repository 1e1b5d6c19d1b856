import { useMutation, useQueryClient } from "@tanstack/react-query";
import { EyeOff, Trash2 } from "lucide-react";
import { api, type Take } from "~/api/client";
import { takesQuery } from "~/api/queries";
import { Sure } from "~/ui/Sure";

/** Deleting is for good, so it is asked once. What a teacher has judged, a student hides from their own list instead. */
export function DeleteTake({
  take,
  student,
  onDeleted,
}: {
  take: Take;
  student: boolean;
  onDeleted: () => void;
}) {
  const queries = useQueryClient();
  const hides = student && (take.word_version > 0 || take.judged_at !== null);
  const remove = useMutation({
    mutationFn: async () => {
      const params = { path: { take_id: take.id } };
      if (hides) await api.POST("/api/v1/takes/{take_id}/hide", { params });
      else await api.DELETE("/api/v1/takes/{take_id}", { params });
    },
    onSuccess: () => {
      onDeleted();
      queries.removeQueries({ queryKey: ["takes", take.id] });
      void queries.invalidateQueries({ queryKey: takesQuery.queryKey, exact: true });
    },
  });
  if (hides)
    return (
      <Sure
        label={
          <>
            <EyeOff size={16} aria-hidden />
            Hide
          </>
        }
        title="Hide this take?"
        says="Your teacher has judged it, so it is not deleted. It leaves your list; your teacher still sees it."
        yes="Hide it"
        no="Keep it"
        act={remove}
      />
    );
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
