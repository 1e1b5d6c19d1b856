/** Whether a take may be of another drill than it was sent for. Pure. */

export interface Unlike {
  asked: number;
  /** Of those not heard, and heard at another pitch. */
  missed: number;
  wrong: number;
  /** Heard, and not asked for. */
  extra: number;
}

const LEAST_ASKED = 8;
const SHARE = 1 / 4;

/** How far what was heard is not what the drill asks for. */
export function unlikeIn(analysis: {
  notes: readonly { status: string }[];
  extras: readonly { kind: string }[];
}): Unlike {
  const count = (status: string) => analysis.notes.filter((n) => n.status === status).length;
  return {
    asked: analysis.notes.length,
    missed: count("missed"),
    wrong: count("wrong_pitch"),
    extra: analysis.extras.filter((e) => e.kind === "extra").length,
  };
}

/**
 * Whether so many asked notes are not there and so many others are that another drill may have been played.
 *
 * Missing ones alone are a student who stopped; others alone, somebody who played on.
 */
export function looksLikeAnother({ asked, missed, wrong, extra }: Unlike): boolean {
  return asked >= LEAST_ASKED && wrong + Math.min(missed, extra) >= SHARE * asked;
}

/** What is not as asked, in words: "Of its 60 notes 20 are missing and 3 have another pitch, and 15 others are heard." */
export function unlikeWords({ asked, missed, wrong, extra }: Unlike): string {
  const parts = [
    missed > 0 && `${missed} ${missed === 1 ? "is" : "are"} missing`,
    wrong > 0 && `${wrong} ${wrong === 1 ? "has" : "have"} another pitch`,
  ].filter((part) => part !== false);
  const others = extra > 0 ? `, and ${extra} ${extra === 1 ? "other is" : "others are"} heard` : "";
  return `Of its ${asked} notes ${parts.join(" and ")}${others}.`;
}
