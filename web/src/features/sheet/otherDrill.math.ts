/** Whether a take may be of another drill than it was sent for. Pure. */

export interface Counts {
  clean: number;
  not_clean: number;
  unclear: number;
  missed: number;
  extra: number;
}

const LEAST_ASKED = 8;
const SHARE = 1 / 6;

/**
 * Whether so many asked notes are missing and so many others heard that another drill may have been played.
 *
 * Missing ones alone are a student who stopped; others alone, somebody who played on.
 */
export function looksLikeAnother({ clean, not_clean, unclear, missed, extra }: Counts): boolean {
  const asked = clean + not_clean + unclear + missed;
  return asked >= LEAST_ASKED && Math.min(missed, extra) >= SHARE * asked;
}
