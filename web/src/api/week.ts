/** What lies between two lessons: plans, ladders, the logbook, progress, lesson sheets, people. */
import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, data } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Assignment = Schemas["AssignmentRead"];
export type AssignmentTerms = Schemas["AssignmentTerms"];
export type Ladder = Schemas["LadderRead"];
export type LadderRule = Schemas["LadderRule"];
export type Step = Schemas["Step"];
export type Plan = Schemas["PlanRead"];
export type PlanDay = Schemas["DayRead"];
export type Block = Schemas["BlockRead"];
export type Needs = Schemas["NeedsRead"];
export type Proposal = Schemas["ProposalRead"];
export type ClassRead = Schemas["ClassRead"];
export type ClassRow = Schemas["ClassRow"];
export type ClassCell = Schemas["CellRead"];
export type Logbook = Schemas["LogbookRead"];
export type LogDay = Schemas["LogDay"];
export type Overview = Schemas["OverviewRead"];
export type Progress = Schemas["ProgressRead"];
export type Series = Schemas["SeriesRead"];
export type BendPlace = Schemas["BendPlace"];
export type VoicePoint = Schemas["VoicePoint"];
export type SetUpChange = Schemas["SetUpChange"];
export type Sheet = Schemas["SheetRead"];
export type FindingChosen = Schemas["FindingChosen"];
export type Link = Schemas["Link"];
export type Colleague = Schemas["ColleagueRead"];
export type Invitation = Schemas["InvitationRead"];
export type InvitationOpen = Schemas["InvitationOpen"];
export type AuditRow = Schemas["AuditRead"];
export type GuestLink = Schemas["GuestLinkRead"];
export type GuestOpen = Schemas["GuestOpen"];
export type GuestTake = Schemas["GuestTake"];

/** Everything of plans; a step that is taken changes all of it. */
export const plansKey = ["plans"] as const;

export const coursesQuery = queryOptions({
  queryKey: ["courses"],
  queryFn: () => data(api.GET("/api/v1/plans/courses")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const weekQuery = (studentId: number, day?: string) =>
  queryOptions({
    queryKey: [...plansKey, "week", studentId, day ?? "now"],
    queryFn: () =>
      data(
        api.GET("/api/v1/plans/week", {
          params: { query: { student_id: studentId, ...(day ? { day } : {}) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export const proposalsQuery = queryOptions({
  queryKey: [...plansKey, "proposals"],
  queryFn: () => data(api.GET("/api/v1/plans/proposals")),
});

export const needsQuery = queryOptions({
  queryKey: [...plansKey, "needs"],
  queryFn: () => data(api.GET("/api/v1/plans/needs")),
});

export const classQuery = queryOptions({
  queryKey: ["reports", "class"],
  queryFn: () => data(api.GET("/api/v1/reports/class")),
});

export const behindQuery = (studentId: number, skill: ClassCell["skill"]) =>
  queryOptions({
    queryKey: ["reports", "class", studentId, skill],
    queryFn: () =>
      data(api.GET("/api/v1/reports/class/takes", { params: { query: { student_id: studentId, skill } } })),
  });

export const drillUseQuery = (drillId: number) =>
  queryOptions({
    queryKey: ["reports", "drill", drillId],
    queryFn: () => data(api.GET("/api/v1/reports/drill", { params: { query: { drill_id: drillId } } })),
  });

export const ladderQuery = (assignmentId: number) =>
  queryOptions({
    queryKey: [...plansKey, "ladder", assignmentId],
    queryFn: () =>
      data(
        api.GET("/api/v1/plans/assignments/{assignment_id}", {
          params: { path: { assignment_id: assignmentId } },
        }),
      ),
  });

export const logQuery = (studentId: number) =>
  queryOptions({
    queryKey: [...plansKey, "log", studentId],
    queryFn: () =>
      data(api.GET("/api/v1/plans/log", { params: { query: { student_id: studentId, days: 90 } } })),
  });

export const overviewQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["reports", "overview", studentId],
    queryFn: () =>
      data(api.GET("/api/v1/reports/overview", { params: { query: { student_id: studentId } } })),
  });

export const progressQuery = (studentId: number, drillId: number) =>
  queryOptions({
    queryKey: ["reports", "progress", studentId, drillId],
    queryFn: () =>
      data(
        api.GET("/api/v1/reports/progress", {
          params: { query: { student_id: studentId, drill_id: drillId } },
        }),
      ),
  });

export const sheetsQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["sheets", "of", studentId],
    queryFn: () => data(api.GET("/api/v1/reports/sheets", { params: { query: { student_id: studentId } } })),
  });

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: ["sheets", id],
    queryFn: () => data(api.GET("/api/v1/reports/sheets/{sheet_id}", { params: { path: { sheet_id: id } } })),
  });

export const colleaguesQuery = queryOptions({
  queryKey: ["colleagues"],
  queryFn: () => data(api.GET("/api/v1/colleagues")),
});

export const invitationsQuery = queryOptions({
  queryKey: ["invitations"],
  queryFn: () => data(api.GET("/api/v1/invitations")),
});

export const auditQuery = (studentId?: number) =>
  queryOptions({
    queryKey: ["audit", studentId ?? "all"],
    queryFn: () =>
      data(
        api.GET("/api/v1/audit", {
          params: { query: studentId === undefined ? {} : { student_id: studentId } },
        }),
      ),
  });

export const guestLinksQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["guests", studentId],
    queryFn: () => data(api.GET("/api/v1/guests/links", { params: { query: { student_id: studentId } } })),
  });

export const welcomeQuery = queryOptions({
  queryKey: ["welcome"],
  queryFn: () => data(api.GET("/api/v1/welcome")),
  staleTime: Number.POSITIVE_INFINITY,
});
