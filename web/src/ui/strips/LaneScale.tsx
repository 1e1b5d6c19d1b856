import type { LaneName } from "~/ui/take/sheet.math";
import { QuietScale, quietHeight } from "./QuietStrip";
import { TIME_HEIGHT, TimeScale } from "./TimeStrip";
import { TOUCH_HEIGHT, TouchScale } from "./TouchStrip";
import { TuneScale } from "./TuneStrip";
import type { Tune } from "./tuneHeight";

/** How high a strip is; strings: how many lanes Quiet has. */
export function laneHeight(name: LaneName, strings: number, tune: Tune): number {
  if (name === "quiet") return quietHeight(strings);
  return { tune: tune.heightPx, time: TIME_HEIGHT, touch: TOUCH_HEIGHT }[name];
}

/** The labelled values at the left of a strip. */
export function LaneScale({ name, strings }: { name: LaneName; strings: readonly string[] }) {
  if (name === "quiet") return <QuietScale names={strings} />;
  if (name === "time") return <TimeScale />;
  return name === "touch" ? <TouchScale /> : <TuneScale />;
}
