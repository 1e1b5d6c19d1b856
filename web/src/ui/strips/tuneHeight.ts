import { createContext, useContext } from "react";
import { yOfCents } from "~/lib/tune.math";
import type { LaneName } from "~/ui/take/sheet.math";

const TALL = 196;
const MIDDLE = 156;
const LOW = 124;

/** How high the Tune strip is, px: lower where other strips are to be in sight beside it. */
export function tuneHeightFor(lanes: readonly LaneName[]): number {
  if (lanes.length > 3) return LOW;
  return lanes.length === 3 ? MIDDLE : TALL;
}

export interface Tune {
  heightPx: number;
  /** Where an error stands, px from the strip's top. */
  y: (cents: number) => number;
}

export function tuneOf(heightPx: number): Tune {
  return { heightPx, y: (cents) => yOfCents(cents, heightPx) };
}

/** The height of this page's Tune strips. */
export const TuneContext = createContext<Tune>(tuneOf(TALL));

export function useTune(): Tune {
  return useContext(TuneContext);
}
