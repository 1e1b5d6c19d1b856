/** Days as people type them, the day before the month. Pure. */

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const HALF_YEAR_DAYS = 183;

/**
 * The day that was meant, as 2026-11-26; null where it is none. Understood are 26 Nov, 26 November 2026, 26/11, 26.11.2026,
 * 2026-11-26, today, yesterday and tomorrow. Without a year it is the nearest such day.
 */
export function typedDay(text: string, today: string): string | null {
  const said = text
    .trim()
    .toLowerCase()
    .replace(/^(mon|tue|wed|thu|fri|sat|sun)[a-z]*,?\s+/, "");
  const near = { yesterday: -1, today: 0, tomorrow: 1 }[said];
  if (near !== undefined) return shifted(today, near);
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(said);
  if (iso) return real(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const found =
    /^(\d{1,2})\s*[./-]\s*(\d{1,2})(?:\s*[./-]\s*(\d{2,4})?)?$/.exec(said) ??
    /^(\d{1,2})(?:st|nd|rd|th)?\.?\s+([a-z]{3,9})\.?(?:,?\s+(\d{2,4}))?$/.exec(said);
  if (!found) return null;
  const [, day = "", month = "", year] = found;
  const at = /^\d/.test(month) ? Number(month) : MONTHS.indexOf(month.slice(0, 3)) + 1;
  if (year !== undefined) return real(Number(year) + (year.length === 2 ? 2000 : 0), at, Number(day));
  const own = Number(today.slice(0, 4));
  const nearest = [own - 1, own, own + 1].flatMap((y) => real(y, at, Number(day)) ?? []);
  return nearest.find((d) => Math.abs(days(d) - days(today)) <= HALF_YEAR_DAYS) ?? null;
}

function days(day: string): number {
  return Date.parse(`${day}T12:00:00Z`) / 86_400_000;
}

function shifted(day: string, by: number): string {
  return new Date((days(day) + by) * 86_400_000).toISOString().slice(0, 10);
}

/** A day of the calendar, or null: there is no 31 November. */
function real(year: number, month: number, day: number): string | null {
  const at = new Date(Date.UTC(year, month - 1, day, 12));
  const same = at.getUTCFullYear() === year && at.getUTCMonth() === month - 1 && at.getUTCDate() === day;
  return same && year > 1900 ? at.toISOString().slice(0, 10) : null;
}
