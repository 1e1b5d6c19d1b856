import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { useNavigate } from "react-router";
import { deskQuery, takeQuery } from "~/api/queries";
import { useDeskFilter } from "~/lib/deskFilter";

/** Where the Desk goes on after a take: the next that waits in its order, else the first, else the Desk itself. */
export function useNextTake(id: string, teacher: boolean) {
  const [filter] = useDeskFilter();
  const waiting = useQuery({ ...deskQuery({ ...filter, show: "waiting" }), enabled: teacher });
  const navigate = useNavigate();
  const queries = useQueryClient();
  const rows = (waiting.data?.rows ?? []).filter((r) => r.id === id || r.state === "measured");
  const at = rows.findIndex((r) => r.id === id);
  const others = rows.filter((r) => r.id !== id);
  const next = others[Math.max(0, at)] ?? others[0] ?? null;
  const nextId = next?.id ?? null;
  const go = useCallback(() => {
    void navigate(nextId ? `/takes/${nextId}` : "/");
  }, [navigate, nextId]);
  /** So that the next sheet opens without waiting for its row. */
  const prepare = useCallback(() => {
    if (nextId) void queries.prefetchQuery(takeQuery(nextId));
  }, [queries, nextId]);
  return { next, go, prepare, left: others.length };
}
