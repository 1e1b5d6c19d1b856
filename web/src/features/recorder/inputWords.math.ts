/** What the input check says, the most important first. Pure. */
import { minus } from "~/lib/words";
import type { InputSeen } from "./input.math";
import type { Processing } from "./soundCard";

const PROCESSING: Record<Processing, string> = {
  echo_cancellation: "echo cancellation",
  noise_suppression: "noise suppression",
  auto_gain_control: "automatic gain",
};
const LOUD_FLOOR_DBFS = -45;
const GOOD_PEAK_DBFS = -30;

export interface InputFinding {
  level: "stop" | "mind" | "good";
  text: string;
}

export function inputFindings(
  seen: InputSeen | null,
  processing: readonly Processing[],
  loudest: number,
): InputFinding[] {
  if (!seen) return [{ level: "mind", text: "Listening …" }];
  const found: InputFinding[] = [];
  if (seen.dead)
    found.push({ level: "stop", text: "Nothing comes in. Check the cable, the input and its mute switch." });
  if (processing.length > 0)
    found.push({
      level: "stop",
      text: `The browser still applies ${processing.map((p) => PROCESSING[p]).join(" and ")}, which falsifies level and decay. Switch it off in the system’s sound settings, or use another browser.`,
    });
  if (seen.clipped) found.push({ level: "stop", text: "Too loud: it clips. Turn the input down." });
  if (seen.hum)
    found.push({
      level: "mind",
      text: `Hum at ${seen.hum.hz} Hz, ${minus(seen.hum.dbfs.toFixed(0))} dBFS. Try another cable or socket; turn away from screens.`,
    });
  if (seen.floorDbfs !== null && seen.floorDbfs > LOUD_FLOOR_DBFS)
    found.push({
      level: "mind",
      text: `It is noisy: ${minus(seen.floorDbfs.toFixed(0))} dBFS when nobody plays. Soft faults will go unheard.`,
    });
  if (!seen.dead && !seen.clipped && loudest < GOOD_PEAK_DBFS)
    found.push({ level: "mind", text: "Play your loudest note. If it stays this soft, turn the input up." });
  if (found.every((finding) => finding.level !== "stop") && loudest >= GOOD_PEAK_DBFS)
    found.push({ level: "good", text: "Good to go." });
  return found;
}
