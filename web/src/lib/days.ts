/** Days as the API writes them (2026-11-26), without a clock and so without a zone. */

const NAMES = { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" } as const;

function utc(day: string): Date {
  return new Date(`${day}T12:00:00Z`);
}

export function dayWords(day: string): string {
  const thisYear = day.slice(0, 4) === String(new Date().getFullYear());
  return new Intl.DateTimeFormat("en-GB", { ...NAMES, ...(thisYear ? {} : { year: "numeric" }) }).format(
    utc(day),
  );
}

/** With its year: what is looked up years later. */
export function fullDayWords(day: string): string {
  return new Intl.DateTimeFormat("en-GB", { dateStyle: "long", timeZone: "UTC" }).format(utc(day));
}

export function weekdayWords(day: string): string {
  return new Intl.DateTimeFormat("en-GB", { weekday: "long", timeZone: "UTC" }).format(utc(day));
}

export function addDays(day: string, count: number): string {
  const at = utc(day);
  at.setUTCDate(at.getUTCDate() + count);
  return at.toISOString().slice(0, 10);
}

/** Days from one to another; negative where the second is earlier. */
export function daysBetween(from: string, to: string): number {
  return Math.round((utc(to).getTime() - utc(from).getTime()) / 86_400_000);
}

export function minutesWords(minutes: number): string {
  const shown = Number.isInteger(minutes) ? String(minutes) : minutes.toFixed(1);
  return `${shown} min`;
}
