import { queryOptions } from "@tanstack/react-query";
import {
  api,
  type Curves,
  type DrillDetail,
  type DrillRead,
  data,
  type Me,
  problemFrom,
  type Student,
  type Take,
  type TakeMeasured,
} from "./client";

const WHILE_MEASURING_MS = 700;

export function isUnfinished(take: Take): boolean {
  return take.state === "received" || take.state === "queued" || take.state === "measuring";
}

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: () => data<Me>(api.GET("/api/v1/me")),
  retry: false,
  staleTime: 60_000,
});

export const takesQuery = queryOptions({
  queryKey: ["takes"],
  queryFn: () => data<Take[]>(api.GET("/api/v1/takes")),
  refetchInterval: (query) => (query.state.data?.some(isUnfinished) ? WHILE_MEASURING_MS : false),
});

export const studentsQuery = queryOptions({
  queryKey: ["students"],
  queryFn: () => data<Student[]>(api.GET("/api/v1/students")),
});

export const drillsQuery = queryOptions({
  queryKey: ["drills"],
  queryFn: () => data<DrillRead[]>(api.GET("/api/v1/drills")),
});

export const drillQuery = (id: number) =>
  queryOptions({
    queryKey: ["drills", id],
    queryFn: () =>
      data<DrillDetail>(api.GET("/api/v1/drills/{drill_id}", { params: { path: { drill_id: id } } })),
  });

export const takeQuery = (id: string) =>
  queryOptions({
    queryKey: ["takes", id],
    queryFn: () => data<Take>(api.GET("/api/v1/takes/{take_id}", { params: { path: { take_id: id } } })),
    refetchInterval: (query) =>
      query.state.data && isUnfinished(query.state.data) ? WHILE_MEASURING_MS : false,
  });

export const analysisQuery = (id: string) =>
  queryOptions({
    queryKey: ["takes", id, "analysis"],
    queryFn: () =>
      data<TakeMeasured>(api.GET("/api/v1/takes/{take_id}/analysis", { params: { path: { take_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const curvesQuery = (id: string) =>
  queryOptions({
    queryKey: ["takes", id, "curves"],
    queryFn: () =>
      data<Curves>(api.GET("/api/v1/takes/{take_id}/curves", { params: { path: { take_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const soundQuery = (id: string) =>
  queryOptions({
    queryKey: ["takes", id, "sound"],
    queryFn: async () => {
      const answer = await fetch(`/api/v1/takes/${id}/sound`);
      if (!answer.ok) throw problemFrom(answer.status, await answer.text());
      return answer.blob();
    },
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });
