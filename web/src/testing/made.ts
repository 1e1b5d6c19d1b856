/** What the server answers, made by hand: whole, typed, and changed in a part by a test. */
import type { DrillRead, Me, Student, Take } from "~/api/client";
import type { Assignment, Plan, Sheet } from "~/api/week";

export const TEACHER: Me = {
  email: "ines@quay.example",
  leads: true,
  keeps: false,
  left_handed: false,
  name: "Ines",
  role: "teacher",
  student_id: null,
  studio: "Quayside",
  take_max_minutes: 15,
  upload_max_bytes: 200_000_000,
  zone: "UTC",
};

export const STUDENT: Me = {
  ...TEACHER,
  email: "oda@quay.example",
  leads: false,
  name: "Oda",
  role: "student",
  student_id: 3,
};

export function student(part: Partial<Student> = {}): Student {
  return {
    id: 3,
    name: "Oda",
    takes: 4,
    account: null,
    left_handed: false,
    agreed: true,
    left_at: null,
    ...part,
  };
}

export function drill(part: Partial<DrillRead> = {}): DrillRead {
  return {
    id: 7,
    title: "String 3: full bend at fret 7",
    family: "fretted_then_bend",
    bpm: 66,
    archived: false,
    asked: 4,
    built_in: true,
    level: 1,
    repeats: 4,
    strings: [3],
    frets: [7, 9],
    minutes: 0.5,
    members: 0,
    needs: [],
    form: "fretted_then_bend",
    partner_id: null,
    after_id: null,
    tags: [],
    takes: 0,
    version: 1,
    lines: 6,
    shape: [
      [0, 3, 9, ""],
      [2, 3, 7, "bend"],
    ],
    ...part,
  };
}

export function assignment(part: Partial<Assignment> = {}): Assignment {
  return {
    id: 1,
    student_id: 3,
    student: "Oda",
    drill_id: 7,
    drill: "String 3: full bend at fret 7",
    family: "fretted_then_bend",
    drill_archived: false,
    note: "",
    minutes: 4,
    days: 5,
    begins: "2026-11-01",
    ends: null,
    ended_at: null,
    pair_id: null,
    pair: null,
    sharing: "weaker",
    rule: {
      speed: "tempo_steps",
      clean_takes: 3,
      clean_share: 0.95,
      down_takes: 2,
      down_share: 0.8,
      tempo_step_bpm: 4,
      subdivisions: [1, 2, 3, 4, 6],
      ceiling_share: 0.85,
    },
    goal: null,
    step: { bpm: 66, per_click: null },
    step_words: "66 bpm",
    step_since: "2026-11-01T10:00:00Z",
    moves: "confirmed",
    standing: {
      move: "up",
      to: { bpm: 70, per_click: null },
      to_words: "70 bpm",
      says: "Up to 70 bpm.",
      takes: [],
    },
    newest_share: 1,
    ...part,
  };
}

/** A week from Monday the 23rd, seen on Thursday the 26th. */
export function plan(part: Partial<Plan> = {}): Plan {
  const days = Array.from({ length: 7 }, (_, i) => ({
    day: `2026-11-${23 + i}`,
    minutes: i < 5 ? 4 : 0,
    available: 20,
    blocks: i < 5 ? [{ assignment_id: 1, minutes: 4, done: i === 0 ? 4 : 0, recorded: i === 0 ? 2 : 0 }] : [],
    left_out: i === 1 ? ["A scale"] : [],
    cautions: [],
  }));
  return {
    student_id: 3,
    student: "Oda",
    monday: "2026-11-23",
    today: "2026-11-26",
    days,
    assignments: [assignment()],
    hold: null,
    practice: { minutes: [20, 20, 20, 20, 20, 0, 0], at: "19:00:00", feed: false },
    ...part,
  };
}

export function sheet(part: Partial<Sheet> = {}): Sheet {
  const offered = ["Bends stop short", "Late after the string change", "Low strings ring"].map((says, i) => ({
    says,
    drill: `Drill ${i + 1}`,
    tries: `Try ${i + 1}`,
    because: "",
    evidence: "",
    played_on: "2026-11-25",
    take_id: `t${i}`,
  }));
  return {
    id: "5b0e4f3e-0000-4000-8000-000000000001",
    student_id: 3,
    student: "Oda",
    made_at: "2026-11-26T19:00:00Z",
    made_by: "Ines",
    since: "2026-11-19",
    note: "",
    paper: "A4",
    pdf: "none",
    link: null,
    candidates: offered,
    findings: offered.slice(0, 2).map((f, candidate) => ({ candidate, says: f.says, tries: f.tries })),
    ...part,
  };
}

export function take(part: Partial<Take> = {}): Take {
  return {
    id: "7e1f0000-0000-4000-8000-00000000000a",
    student_id: 3,
    student: "Oda",
    drill_id: 7,
    drill: "String 3: full bend at fret 7",
    family: "fretted_then_bend",
    state: "measured",
    stage: "",
    fraction: 1,
    played_at: "2026-11-26T18:00:00Z",
    measured_at: "2026-11-26T18:00:05Z",
    judged_at: null,
    judged_by: null,
    word_version: 0,
    headline: "",
    capture: null,
    click: null,
    drill_version: 1,
    guitar: null,
    guitar_id: null,
    recording_deleted_at: null,
    hidden_at: null,
    invented: true,
    original_name: "take.flac",
    per_click: null,
    problem: null,
    size_bytes: 1_200_000,
    summary: null,
    ticks: "",
    ...part,
  };
}
