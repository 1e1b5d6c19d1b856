/** What a drill can be made to show, and how the sliders say it. Pure. */
import type { DrillContent } from "~/api/client";
import type { Shown } from "~/api/drills";
import { signed } from "~/lib/words";

export function isClean(shown: Shown): boolean {
  return (
    shown.cents === 0 &&
    shown.vibrato_cv === 0 &&
    shown.late_ms === 0 &&
    shown.slur_db === 0 &&
    shown.ring_string === null
  );
}

/** Which faults a drill has room for. */
export function canShow(content: DrillContent): { bends: boolean; vibrato: boolean; slurs: boolean } {
  return {
    bends: content.events.some((event) => event.bend),
    vibrato: content.events.some((event) => event.vibrato),
    slurs: content.events.some((event) => ["hammer", "pull", "tap"].includes(event.articulation)),
  };
}

export function centsSaid(cents: number): string {
  if (cents === 0) return "in tune";
  return `${Math.abs(cents)} cents ${cents < 0 ? "flat" : "sharp"}`;
}

export function msSaid(ms: number): string {
  if (ms === 0) return "on the click";
  return `${Math.abs(ms)} ms ${ms < 0 ? "early" : "late"}`;
}

export function dbSaid(db: number): string {
  return db === 0 ? "as loud as picked" : `${signed(db, 0)} dB`;
}

export function unevenSaid(share: number): string {
  return share === 0 ? "even" : `uneven by ${Math.round(share * 100)} %`;
}

export function ringSaid(db: number): string {
  return `${Math.abs(db)} dB under the note`;
}
