import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, type BenchAnswer, type Curves, type DrillForm, data, problemFrom, type Take } from "./client";

const WHILE_MEASURING_MS = 700;
const WHILE_READING_MS = 300;

export function isUnfinished(take: Pick<Take, "state">): boolean {
  return take.state === "received" || take.state === "queued" || take.state === "measuring";
}

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: () => data(api.GET("/api/v1/me")),
  retry: false,
  staleTime: 60_000,
});

export const takesQuery = queryOptions({
  queryKey: ["takes"],
  queryFn: () => data(api.GET("/api/v1/takes")),
  refetchInterval: (query) => (query.state.data?.some(isUnfinished) ? WHILE_MEASURING_MS : false),
});

export const takesOfQuery = (studentId: number, limit: number) =>
  queryOptions({
    queryKey: ["takes", "of", studentId, limit],
    queryFn: () => data(api.GET("/api/v1/takes", { params: { query: { student_id: studentId, limit } } })),
    refetchInterval: (query) => (query.state.data?.some(isUnfinished) ? WHILE_MEASURING_MS : false),
  });

/** Everything the Desk shows, whatever is filtered. */
export const deskKey = ["takes", "desk"] as const;

export interface DeskAsked {
  show: "waiting" | "judged" | "all";
  student_id?: number | undefined;
  drill_id?: number | undefined;
  family?: string | undefined;
}

const MOST_ON_DESK = 500;

export const deskQuery = (asked: DeskAsked) =>
  queryOptions({
    queryKey: [...deskKey, asked],
    queryFn: () =>
      data(api.GET("/api/v1/takes/desk", { params: { query: { ...asked, limit: MOST_ON_DESK } } })),
    refetchInterval: ({ state: { data } }) =>
      data?.counts.unfinished || data?.rows.some(isUnfinished) ? WHILE_MEASURING_MS : false,
    placeholderData: keepPreviousData,
  });

export const compareQuery = (a: string, b: string) =>
  queryOptions({
    queryKey: ["takes", "compare", a, b],
    queryFn: () =>
      data(
        api.GET("/api/v1/takes/{take_id}/compare/{other_id}", {
          params: { path: { take_id: a, other_id: b } },
        }),
      ),
  });

export const trialQuery = (takeId: string, trialId: string) =>
  queryOptions({
    queryKey: ["takes", takeId, "trials", trialId],
    queryFn: () =>
      data(
        api.GET("/api/v1/takes/{take_id}/trials/{trial_id}", {
          params: { path: { take_id: takeId, trial_id: trialId } },
        }),
      ),
    refetchInterval: (query) => (query.state.data?.state === "waiting" ? WHILE_READING_MS : false),
  });

export const studentsQuery = queryOptions({
  queryKey: ["students"],
  queryFn: () => data(api.GET("/api/v1/students")),
});

/** Who is taught now: former students are not offered where somebody is to play. */
export const presentStudentsQuery = queryOptions({
  ...studentsQuery,
  select: (students) => students.filter((s) => !s.left_at),
});

export const guitarsQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["guitars", "of", studentId],
    queryFn: () => data(api.GET("/api/v1/guitars", { params: { query: { student_id: studentId } } })),
  });

export const allGuitarsQuery = queryOptions({
  queryKey: ["guitars", "all"],
  queryFn: () => data(api.GET("/api/v1/guitars")),
});

export const guitarQuery = (id: number) =>
  queryOptions({
    queryKey: ["guitars", id],
    queryFn: () => data(api.GET("/api/v1/guitars/{guitar_id}", { params: { path: { guitar_id: id } } })),
  });

export const setUpsQuery = (guitarId: number) =>
  queryOptions({
    queryKey: ["takes", "set-ups", guitarId],
    queryFn: () => data(api.GET("/api/v1/takes/set-ups", { params: { query: { guitar_id: guitarId } } })),
  });

export const earChecksQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["ear-checks", studentId],
    queryFn: () =>
      data(api.GET("/api/v1/bench/ear-checks", { params: { query: { student_id: studentId } } })),
  });

export const voiceQuery = (studentId: number) =>
  queryOptions({
    queryKey: ["takes", "voice", studentId],
    queryFn: () => data(api.GET("/api/v1/takes/voice", { params: { query: { student_id: studentId } } })),
  });

export const calculatorsQuery = queryOptions({
  queryKey: ["bench", "calculators"],
  queryFn: () => data(api.GET("/api/v1/bench/calculators")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** The fields are the query, so that what is typed and what is asked for is the same text. */
export const calculateQuery = (id: string, fields: string) =>
  queryOptions({
    queryKey: ["bench", "calculate", id, fields],
    queryFn: async () => {
      const answer = await fetch(`/api/v1/bench/calculators/${id}?${fields}`);
      if (!answer.ok) throw problemFrom(answer.status, await answer.text());
      return (await answer.json()) as BenchAnswer;
    },
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  });

export interface TargetAsked {
  string: number;
  fret: number;
  bend_cents: number;
  guitar_id: number | undefined;
  tuning: string | undefined;
}

export const targetsQuery = ({ string, bend_cents, guitar_id, tuning }: TargetAsked) => {
  const asked = { string, bend_cents, guitar_id, tuning };
  return queryOptions({
    queryKey: ["bench", "targets", asked],
    queryFn: () => data(api.GET("/api/v1/bench/targets", { params: { query: asked } })),
    placeholderData: keepPreviousData,
  });
};

export const targetQuery = (asked: TargetAsked) =>
  queryOptions({
    queryKey: ["bench", "target", asked],
    queryFn: () => data(api.GET("/api/v1/bench/target", { params: { query: asked } })),
    placeholderData: keepPreviousData,
  });

export const drillsQuery = queryOptions({
  queryKey: ["drills"],
  queryFn: () => data(api.GET("/api/v1/drills")),
});

export const generatorsQuery = queryOptions({
  queryKey: ["generators"],
  queryFn: () => data(api.GET("/api/v1/drills/generators")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** What a form makes. varied: fields that go through values, which makes a set. */
export const generatedQuery = (form: DrillForm) =>
  queryOptions({
    queryKey: ["generated", form],
    queryFn: () => data(api.POST("/api/v1/drills/generate", { body: form })),
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
  });

/** perClick: laid out with so many notes to the click, a step of a ladder. */
export const drillQuery = (id: number, perClick: number | null = null) =>
  queryOptions({
    queryKey: perClick === null ? ["drills", id] : ["drills", id, "per-click", perClick],
    queryFn: () =>
      data(
        api.GET("/api/v1/drills/{drill_id}", {
          params: { path: { drill_id: id }, query: perClick === null ? {} : { per_click: perClick } },
        }),
      ),
  });

export const versionsQuery = (id: number) =>
  queryOptions({
    queryKey: ["drills", id, "versions"],
    queryFn: () =>
      data(api.GET("/api/v1/drills/{drill_id}/versions", { params: { path: { drill_id: id } } })),
  });

export const versionQuery = (id: number, number: number) =>
  queryOptions({
    queryKey: ["drills", id, "versions", number],
    queryFn: () =>
      data(
        api.GET("/api/v1/drills/{drill_id}/versions/{number}", {
          params: { path: { drill_id: id, number } },
        }),
      ),
  });

export const scoreQuery = (id: string) =>
  queryOptions({
    queryKey: ["scores", id],
    queryFn: () =>
      data(api.GET("/api/v1/drills/imports/{import_id}", { params: { path: { import_id: id } } })),
    refetchInterval: (query) => (query.state.data?.state === "waiting" ? WHILE_READING_MS : false),
  });

export const takeQuery = (id: string) =>
  queryOptions({
    queryKey: ["takes", id],
    queryFn: () => data(api.GET("/api/v1/takes/{take_id}", { params: { path: { take_id: id } } })),
    refetchInterval: (query) =>
      query.state.data && isUnfinished(query.state.data) ? WHILE_MEASURING_MS : false,
  });

/** measuredAt: a take that is measured again has another analysis. */
export const analysisQuery = (id: string, measuredAt: string | null) =>
  queryOptions({
    queryKey: ["takes", id, "analysis", measuredAt],
    queryFn: () => data(api.GET("/api/v1/takes/{take_id}/analysis", { params: { path: { take_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What a sheet draws until its curves are there. */
export const NO_CURVES: Curves = {
  hop_s: 0.005,
  pitch_cents: [],
  level_dbfs: [],
  confidence: [],
  outline_step_s: 0.01,
  outline_low: [],
  outline_high: [],
};

export const curvesQuery = (id: string, measuredAt: string | null) =>
  queryOptions({
    queryKey: ["takes", id, "curves", measuredAt],
    queryFn: () => data(api.GET("/api/v1/takes/{take_id}/curves", { params: { path: { take_id: id } } })),
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
