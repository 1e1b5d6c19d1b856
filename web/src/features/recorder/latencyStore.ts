/** Measured round trips, kept in this browser by device; old ones and those of another device do not count. */
import type { Latency } from "./latency.math";

const KEY = "fortimetra.latency";
const KEPT_DAYS = 90;
const MOST_DEVICES = 20;

interface Kept {
  ms: number;
  spreadMs: number;
  at: number;
}

function all(): Record<string, Kept> {
  try {
    return (JSON.parse(localStorage.getItem(KEY) ?? "{}") ?? {}) as Record<string, Kept>;
  } catch {
    return {};
  }
}

export function latencyFor(key: string, now = Date.now()): Kept | null {
  const kept = all()[key];
  return kept && now - kept.at < KEPT_DAYS * 86_400_000 ? kept : null;
}

export function keepLatency(key: string, latency: Latency, now = Date.now()): void {
  const kept = { ...all(), [key]: { ms: latency.ms, spreadMs: latency.spreadMs, at: now } };
  const newest = Object.entries(kept)
    .sort(([, a], [, b]) => b.at - a.at)
    .slice(0, MOST_DEVICES);
  localStorage.setItem(KEY, JSON.stringify(Object.fromEntries(newest)));
}

export function forgetLatency(key: string): void {
  const { [key]: _, ...rest } = all();
  localStorage.setItem(KEY, JSON.stringify(rest));
}
