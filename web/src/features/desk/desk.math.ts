/** The Desk in words; no DOM. */
import type { DeskRead, DeskRow } from "~/api/client";

export function deskWords({ waiting, judged, unfinished, refused }: DeskRead["counts"]): string {
  const parts = [`${waiting} ${waiting === 1 ? "take waits" : "takes wait"}`];
  if (unfinished) parts.push(`${unfinished} being measured`);
  if (refused) parts.push(`${refused} that could not be measured`);
  if (judged) parts.push(`${judged} judged`);
  return parts.join(", ");
}

/** Every note that counts is clean, nothing was missed, nothing too much. */
export function isClean(row: DeskRow): boolean {
  return (
    row.state === "measured" &&
    !row.judged_at &&
    row.asked > 0 &&
    row.clean + row.excluded === row.asked &&
    row.extra === 0
  );
}

/** "cannot tell" and the rest beside the clean ones. */
export function restWords(row: DeskRow): string {
  return [
    row.unclear && `${row.unclear} cannot tell`,
    row.missed && `${row.missed} missed`,
    row.extra && `${row.extra} extra`,
    row.excluded && `${row.excluded} not counted`,
  ]
    .filter(Boolean)
    .join(", ");
}
