import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, data, type Schemas } from "~/api/client";
import { deskKey, takesQuery } from "~/api/queries";

export interface ToJudge {
  takes: { id: string; word_version: number }[];
  judged: boolean;
}

/** Confirm takes as they stand, or put them back on the Desk; those somebody changed meanwhile are left alone and named. */
export function useJudge(onDone?: (answer: Schemas["JudgedRead"], asked: ToJudge) => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (asked: ToJudge) => data(api.POST("/api/v1/takes/judge", { body: asked })),
    onSuccess: (answer, asked) => {
      void queries.invalidateQueries({ queryKey: deskKey });
      for (const id of [...answer.done, ...answer.changed])
        void queries.invalidateQueries({ queryKey: [...takesQuery.queryKey, id] });
      onDone?.(answer, asked);
    },
  });
}
