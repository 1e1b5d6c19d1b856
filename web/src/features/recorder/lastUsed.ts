import { ALWAYS, type ClickSettings } from "./clickPlan.math";

export const LAST = "fortimetra.recorder";

/** What the recorder was used with. */
export interface Last {
  student: string;
  guitar: string;
  click: ClickSettings;
}

/** Who played last, on what, to which click; kept in this browser. */
export function lastUsed(): Last {
  const none = { student: "", guitar: "", click: ALWAYS };
  try {
    const last = { ...none, ...(JSON.parse(localStorage.getItem(LAST) ?? "{}") as Partial<Last>) };
    // A tempo is of one drill and one sitting.
    return { ...last, click: { ...ALWAYS, ...last.click, bpm: null } };
  } catch {
    return none;
  }
}
