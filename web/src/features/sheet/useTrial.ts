import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, data, type Schemas, type TakeMeasured, type TrialRead } from "~/api/client";
import { takesQuery, trialQuery } from "~/api/queries";

export type Tried = Schemas["TryTake"];

const NOTHING: Tried = {
  drill_id: null,
  newest_version: false,
  click: null,
  recorded_click: false,
  tolerances: null,
  pins: null,
};

export interface Trying {
  trial: TrialRead | null;
  begin: (tried: Partial<Tried>) => void;
  keep: () => void;
  drop: () => void;
  pending: boolean;
  error: Error | null;
}

/** A take measured once more with something changed, beside what counts. */
export function useTrial(measured: TakeMeasured): Trying {
  const takeId = measured.take.id;
  const queries = useQueryClient();
  const [id, setId] = useState<string | null>(null);
  const begun = useMutation({
    mutationFn: (tried: Partial<Tried>) =>
      data(
        api.POST("/api/v1/takes/{take_id}/trials", {
          params: { path: { take_id: takeId } },
          body: { ...NOTHING, ...tried } as Tried,
        }),
      ),
    onSuccess: (trial) => {
      queries.setQueryData(trialQuery(takeId, trial.id).queryKey, trial);
      setId(trial.id);
    },
  });
  const found = useQuery({ ...trialQuery(takeId, id ?? ""), enabled: id !== null });
  const path = { params: { path: { take_id: takeId, trial_id: id ?? "" } } };
  const kept = useMutation({
    mutationFn: () => data(api.POST("/api/v1/takes/{take_id}/trials/{trial_id}/keep", path)),
    // It stays until the new sheet is there: what is opened in the old one meanwhile would be shut again.
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: takesQuery.queryKey });
      setId(null);
    },
  });
  const dropped = useMutation({
    mutationFn: () => data(api.DELETE("/api/v1/takes/{take_id}/trials/{trial_id}", path)),
    onSettled: () => setId(null),
  });
  const { mutate: start, reset } = begun;
  const begin = useCallback(
    (tried: Partial<Tried>) => {
      reset();
      start(tried);
    },
    [start, reset],
  );
  return {
    trial: id === null ? null : (found.data ?? null),
    begin,
    keep: kept.mutate,
    drop: dropped.mutate,
    pending: begun.isPending || kept.isPending || dropped.isPending,
    error: begun.error ?? found.error ?? kept.error,
  };
}
