import { queryOptions } from "@tanstack/react-query";
import { api, data } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type ConsentGiven = Schemas["ConsentGiven"];
export type ConsentStated = Schemas["ConsentStated"];
export type Consents = Schemas["Consents"];
export type ConsentRead = Schemas["ConsentRead"];
export type Keeping = Schemas["KeepingRead"];

export const consentQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["consent", studentId],
    queryFn: () =>
      data(api.GET("/api/v1/students/{student_id}/consent", { params: { path: { student_id: studentId } } })),
  });

export const keepingQuery = queryOptions({
  queryKey: ["keeping"],
  queryFn: () => data(api.GET("/api/v1/reports/keeping")),
});
