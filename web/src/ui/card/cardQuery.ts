import { queryOptions } from "@tanstack/react-query";
import { api, data, type Schemas } from "~/api/client";

export type Card = Schemas["Card"];
export type CardSection = Schemas["Section"];

export const cardKey = (drillId: number) => ["drills", drillId, "card"] as const;

export const cardQuery = (drillId: number) =>
  queryOptions({
    queryKey: cardKey(drillId),
    queryFn: () =>
      data(api.GET("/api/v1/drills/{drill_id}/card", { params: { path: { drill_id: drillId } } })),
    staleTime: 300_000,
  });

/** Strings that rang in the newest takes of a drill. */
export const rungQuery = (drillId: number) =>
  queryOptions({
    queryKey: ["takes", "rung", drillId],
    queryFn: () => data(api.GET("/api/v1/takes/rung", { params: { query: { drill_id: drillId } } })),
  });

/** Say a section differently; no lines: as the house says it. */
export function writeCard(
  drillId: number,
  section: string,
  of: "drill" | "family",
  lines: string[],
): Promise<Card> {
  return data(
    api.PUT("/api/v1/drills/{drill_id}/card/{section}", {
      params: { path: { drill_id: drillId, section } },
      body: { of, lines },
    }),
  );
}
