import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { api, data, type Mark, type MarkRead, type TakeMeasured } from "~/api/client";
import { analysisQuery, deskKey, takeQuery } from "~/api/queries";
import type { SheetNote } from "~/ui/take/notes.math";

export type Place = NonNullable<Mark["notes"]>[number];

export interface Word {
  marks: MarkRead[];
  say: (mark: Mark) => void;
  undo: (mark: MarkRead, undone?: boolean) => void;
  /** The newest word that counts; what Ctrl+Z takes back. */
  last: MarkRead | null;
  /** The newest that was taken back; what Ctrl+Shift+Z lets count again. */
  lastUndone: MarkRead | null;
  pending: boolean;
  error: unknown;
}

/** The teacher's word on a take: said, taken back, and shown at once as the server answers it. */
export function useWord(measured: TakeMeasured): Word {
  const queries = useQueryClient();
  const { id } = measured.take;
  const shown = useCallback(
    (answer: TakeMeasured) => {
      queries.setQueryData(analysisQuery(id, answer.take.measured_at).queryKey, answer);
      queries.setQueryData(takeQuery(id).queryKey, answer.take);
      void queries.invalidateQueries({ queryKey: deskKey });
    },
    [queries, id],
  );
  const said = useMutation({
    mutationFn: (mark: Mark) =>
      data(api.POST("/api/v1/takes/{take_id}/marks", { params: { path: { take_id: id } }, body: mark })),
    onSuccess: shown,
  });
  const undone = useMutation({
    mutationFn: ({ mark, undone }: { mark: number; undone: boolean }) =>
      data(
        api.PUT("/api/v1/takes/{take_id}/marks/{mark_id}", {
          params: { path: { take_id: id, mark_id: mark } },
          body: { undone },
        }),
      ),
    onSuccess: shown,
  });
  const { mutate: say } = said;
  const { mutate: takeBack } = undone;
  const undo = useCallback(
    (mark: MarkRead, back = true) => takeBack({ mark: mark.id, undone: back }),
    [takeBack],
  );
  const { marks } = measured;
  const last = useMemo(() => marks.findLast((m) => m.undone_at === null) ?? null, [marks]);
  const lastUndone = useMemo(
    () =>
      marks
        .filter((m) => m.undone_at !== null)
        .sort((a, b) => (a.undone_at ?? "").localeCompare(b.undone_at ?? ""))
        .at(-1) ?? null,
    [marks],
  );
  return {
    marks,
    say,
    undo,
    last,
    lastUndone,
    pending: said.isPending || undone.isPending,
    error: said.error ?? undone.error,
  };
}

/** Notes as places; a note of several struck together is named by its string. */
export function placesOf(notes: readonly SheetNote[]): Place[] {
  return notes.map(({ note, event }) => ({
    id: note.id,
    repeat: note.repeat,
    string: (event?.notes?.length ?? 1) > 1 && !event?.bend ? note.string : null,
  }));
}

/** Whether a note is one of some places; a place without a string is every note of its event. */
export function isAmong(places: readonly Place[] | undefined, { note }: SheetNote): boolean {
  return (places ?? []).some(
    (p) => p.id === note.id && p.repeat === note.repeat && (p.string == null || p.string === note.string),
  );
}
