/** Words for what a server says of itself. */

const JOBS: Record<string, string> = {
  "takes.measure": "Measuring a take",
  "takes.try": "Measuring a take otherwise",
  "takes.remeasure": "Measuring an old take again",
  "takes.go_through_order": "Going through takes to be measured again",
  "takes.guess_drill": "Hearing which drill a recording is of",
  "drills.read_score": "Reading a score",
  "drills.render_preview": "Playing a drill",
  "reports.set_sheet": "Setting a lesson sheet",
  "reports.make_sample": "Playing the sample take",
};

export const jobWords = (kind: string) => JOBS[kind] ?? kind;

/** How long ago, roughly. */
export function ageWords(seconds: number): string {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 90 * 60) return `${Math.round(seconds / 60)} min`;
  if (seconds < 48 * 3600) return `${Math.round(seconds / 3600)} h`;
  return `${Math.round(seconds / 86_400)} days`;
}
