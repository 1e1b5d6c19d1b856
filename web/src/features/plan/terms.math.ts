/** What the form of an assignment holds, as text, and what it asks of the server. */
import type { Assignment, AssignmentTerms, LadderRule, Step } from "~/api/week";
import { typedNumber, typedNumbers } from "~/lib/typed";

export type Speed = LadderRule["speed"];

export interface TermFields {
  minutes: string;
  days: string;
  ends: string;
  note: string;
  speed: Speed;
  bpm: string;
  perClick: string;
  goalBpm: string;
  goalPerClick: string;
  cleanTakes: string;
  cleanPercent: string;
  downTakes: string;
  downPercent: string;
  tempoStep: string;
  subdivisions: string;
  ceilingPercent: string;
  moves: "confirmed" | "automatic";
  pairId: string;
  sharing: "equal" | "weaker";
}

export const NO_PAIR = "none";
export const SPEEDS: { value: Speed; label: string }[] = [
  { value: "tempo_steps", label: "Tempo up in small steps" },
  { value: "notes_per_click", label: "More notes to a click" },
  { value: "overlearn", label: "Stay until it is effortless" },
];

/** House defaults; overlearning stays for ten clean takes. */
export function fieldsFor(bpm: number | null, speed: Speed = "tempo_steps"): TermFields {
  return {
    minutes: "3",
    days: "5",
    ends: "",
    note: "",
    speed,
    bpm: bpm === null ? "" : String(bpm),
    perClick: speed === "notes_per_click" ? "1" : "",
    goalBpm: "",
    goalPerClick: "",
    cleanTakes: speed === "overlearn" ? "10" : "3",
    cleanPercent: "95",
    downTakes: "2",
    downPercent: "80",
    tempoStep: "4",
    subdivisions: "1 2 3 4 6",
    ceilingPercent: "85",
    moves: "confirmed",
    pairId: NO_PAIR,
    sharing: "weaker",
  };
}

export function fieldsOf(assignment: Assignment): TermFields {
  const { rule, goal, step } = assignment;
  return {
    minutes: String(assignment.minutes),
    days: String(assignment.days),
    ends: assignment.ends ?? "",
    note: assignment.note,
    speed: rule.speed ?? "tempo_steps",
    bpm: step.bpm ? String(step.bpm) : "",
    perClick: step.per_click ? String(step.per_click) : "",
    goalBpm: goal?.bpm ? String(goal.bpm) : "",
    goalPerClick: goal?.per_click ? String(goal.per_click) : "",
    cleanTakes: String(rule.clean_takes ?? 3),
    cleanPercent: percent(rule.clean_share ?? 0.95),
    downTakes: String(rule.down_takes ?? 2),
    downPercent: percent(rule.down_share ?? 0.8),
    tempoStep: String(rule.tempo_step_bpm ?? 4),
    subdivisions: (rule.subdivisions ?? [1, 2, 3, 4, 6]).join(" "),
    ceilingPercent: percent(rule.ceiling_share ?? 0.85),
    moves: assignment.moves,
    pairId: assignment.pair_id === null ? NO_PAIR : String(assignment.pair_id),
    sharing: assignment.sharing,
  };
}

function percent(share: number): string {
  return String(Math.round(1000 * share) / 10);
}

export function stepOf(bpm: string, perClick: string): Step | null {
  const clicks = typedNumber(bpm, "Clicks a minute");
  return clicks === null ? null : { bpm: clicks, per_click: typedNumber(perClick, "Notes to a click") };
}

/** What the server is asked for; throws a Problem where something typed is no number. */
export function termsOf(fields: TermFields): AssignmentTerms {
  return {
    minutes: typedNumber(fields.minutes, "A day") ?? 0,
    days: typedNumber(fields.days, "Days a week") ?? 0,
    begins: null,
    ends: fields.ends || null,
    note: fields.note,
    rule: {
      speed: fields.speed,
      clean_takes: typedNumber(fields.cleanTakes, "Clean takes to go up") ?? 0,
      clean_share: (typedNumber(fields.cleanPercent, "A take is clean from") ?? 0) / 100,
      down_takes: typedNumber(fields.downTakes, "Takes to go down") ?? 0,
      down_share: (typedNumber(fields.downPercent, "Each under") ?? 0) / 100,
      tempo_step_bpm: typedNumber(fields.tempoStep, "Step") ?? 0,
      subdivisions: typedNumbers(fields.subdivisions, "Notes to a click, in turn"),
      ceiling_share: (typedNumber(fields.ceilingPercent, "Of the fastest even run, at most") ?? 0) / 100,
    },
    goal: stepOf(fields.goalBpm || (fields.goalPerClick ? fields.bpm : ""), fields.goalPerClick),
    moves: fields.moves,
    pair_id: fields.pairId === NO_PAIR ? null : Number(fields.pairId),
    sharing: fields.sharing,
  };
}
