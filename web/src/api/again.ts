import { queryOptions } from "@tanstack/react-query";
import { api, data } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type AgainAsk = Schemas["AgainAsk"];
export type AgainRead = Schemas["AgainRead"];
export type Flip = Schemas["Flip"];

const WHILE_WORKING_MS = 2_000;

/** Whether workers have something to do for it. */
export const isWorkedOn = (order: AgainRead) =>
  ["listing", "running", "keeping", "dropping"].includes(order.state);

export const againQuery = queryOptions({
  queryKey: ["again", "orders"],
  queryFn: () => data(api.GET("/api/v1/takes/again")),
  refetchInterval: (query) => (query.state.data?.some(isWorkedOn) ? WHILE_WORKING_MS : false),
});

export const estimateQuery = (asked: AgainAsk) =>
  queryOptions({
    queryKey: ["again", "estimate", asked],
    queryFn: () => data(api.GET("/api/v1/takes/again/estimate", { params: { query: asked } })),
  });
