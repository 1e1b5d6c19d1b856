import { type QueryKey, useMutation, useQueryClient } from "@tanstack/react-query";

/** Something that is done on the server and changes what the named queries show. */
export function useAct<Given = void, Got = unknown>(
  act: (given: Given) => Promise<Got>,
  changes: readonly QueryKey[],
  after?: (got: Got, given: Given) => void,
) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: act,
    onSuccess: async (got, given) => {
      after?.(got, given);
      await Promise.all(changes.map((queryKey) => queries.invalidateQueries({ queryKey })));
    },
  });
}
