import { queryOptions } from "@tanstack/react-query";
import { api, data } from "./client";
import type { components } from "./schema";

export type KeeperRead = components["schemas"]["KeeperRead"];

const LOOK_EVERY_MS = 10_000;

export const keeperQuery = queryOptions({
  queryKey: ["keeper"],
  queryFn: () => data(api.GET("/api/v1/keeper")),
  refetchInterval: LOOK_EVERY_MS,
});
