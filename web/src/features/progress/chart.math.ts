/** Charts over time: where things stand, in pixels of the chart's own frame. */
import type { Series } from "~/api/week";

export interface Frame {
  widthPx: number;
  heightPx: number;
  leftPx: number;
  bottomPx: number;
}

export interface Placed {
  takeId: string;
  xPx: number;
  yPx: number;
  /** Ends of the uncertainty's bar, or null where the take does not say. */
  bar: [number, number] | null;
  side: "under" | "over" | "inside" | "none";
  core: string;
  value: number;
  u: number | null;
}

export interface Laid {
  points: Placed[];
  /** Top and bottom of the tolerance's band. */
  band: [number, number] | null;
  ticks: { value: number; yPx: number }[];
  days: { iso: string; xPx: number }[];
  xOf: (iso: string) => number;
}

const LEAST_DAYS = 7;
const DAY_MS = 86_400_000;

/** A round step for so many lines over a span. */
export function roundStep(span: number, lines: number): number {
  const rough = Math.max(span, 1e-9) / lines;
  const power = 10 ** Math.floor(Math.log10(rough));
  const share = rough / power;
  return power * (share <= 1 ? 1 : share <= 2 ? 2 : share <= 5 ? 5 : 10);
}

/** The values a chart spans: the points with their bars, the tolerance, and zero where that is what is wanted. */
export function spanOf(
  series: Pick<Series, "points" | "limit" | "wanted"> & { unit?: string },
): [number, number] {
  const values = series.points.flatMap((p) => endsOf(p, series));
  if (series.wanted === "zero")
    values.push(0, ...(series.limit === null ? [] : [series.limit, -series.limit]));
  else if (series.limit !== null) values.push(series.limit);
  if (series.wanted === "low" && Math.min(...values) >= 0) values.push(0);
  const low = Math.min(...values);
  const high = Math.max(...values);
  const pad = Math.max(1e-6, 0.06 * (high - low));
  return [low - (low === 0 ? 0 : pad), high + pad];
}

/** The ends of what a value may be; a share ends at nothing and at all. */
function endsOf(
  point: { value: number; u: number | null },
  series: { unit?: string; wanted: Series["wanted"] },
): [number, number] {
  const u = point.u ?? 0;
  const share = series.unit === "%" && series.wanted === "high";
  return share
    ? [Math.max(0, point.value - u), Math.min(100, point.value + u)]
    : [point.value - u, point.value + u];
}

export function layout(series: Series, frame: Frame): Laid {
  const [low, high] = spanOf(series);
  const usable = frame.heightPx - frame.bottomPx - 6;
  const yOf = (value: number) => 6 + usable * (1 - (value - low) / (high - low));
  const times = series.points.map((p) => Date.parse(p.played_at));
  const first = Math.min(...times);
  const last = Math.max(...times, first + LEAST_DAYS * DAY_MS);
  const wide = frame.widthPx - frame.leftPx - 10;
  const xOf = (iso: string) => frame.leftPx + 4 + (wide * (Date.parse(iso) - first)) / (last - first);
  const step = roundStep(high - low, 4);
  const ticks = [];
  for (let value = Math.ceil(low / step) * step; value <= high; value += step)
    ticks.push({ value: Math.abs(value) < step / 1e6 ? 0 : value, yPx: yOf(value) });
  return {
    points: series.points.map((p) => ({
      takeId: p.take_id,
      xPx: xOf(p.played_at),
      yPx: yOf(p.value),
      bar: p.u === null ? null : [yOf(endsOf(p, series)[1]), yOf(endsOf(p, series)[0])],
      side: sideOf(series, p.value),
      core: p.core_version,
      value: p.value,
      u: p.u,
    })),
    band: bandOf(series, yOf, low),
    ticks,
    days: [first, last].map((at) => ({
      iso: new Date(at).toISOString(),
      xPx: xOf(new Date(at).toISOString()),
    })),
    xOf,
  };
}

function bandOf(series: Series, yOf: (value: number) => number, low: number): [number, number] | null {
  if (series.limit === null) return null;
  if (series.wanted === "zero") return [yOf(series.limit), yOf(-series.limit)];
  // "At most so much": from the limit down to the chart's floor.
  return [yOf(series.limit), yOf(Math.min(low, series.limit))];
}

function sideOf(series: Series, value: number): Placed["side"] {
  if (series.limit === null) return "none";
  if (series.wanted === "zero") {
    if (Math.abs(value) <= series.limit) return "inside";
    return value < 0 ? "under" : "over";
  }
  return value <= series.limit ? "inside" : "over";
}

/** Where another version of the measuring begins: numbers on its two sides are not one trend. */
export function coreChanges(laid: Laid): { xPx: number; core: string }[] {
  const out: { xPx: number; core: string }[] = [];
  laid.points.forEach((point, i) => {
    const before = laid.points[i - 1];
    if (before && before.core !== point.core)
      out.push({ xPx: (before.xPx + point.xPx) / 2, core: point.core });
  });
  return out;
}

export function numberWords(value: number, unit: string): string {
  const digits = unit === "" ? 2 : Math.abs(value) < 10 ? 1 : 0;
  return `${value.toFixed(digits).replace("-", "−")}${unit ? ` ${unit}` : ""}`;
}
