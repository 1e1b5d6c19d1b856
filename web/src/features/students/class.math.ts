/** The class at a glance in words and in its orders. */
import type { Student } from "~/api/client";
import type { ClassCell, ClassRow, Needs } from "~/api/week";
import { minutesWords } from "~/lib/days";
import { day } from "~/lib/words";
import { shareWords } from "~/ui/shareTrend.math";

export type ClassOrder = "ear" | "silent" | "name";

export const ORDERS: { value: ClassOrder; label: string }[] = [
  { value: "ear", label: "who needs an ear first" },
  { value: "silent", label: "longest without a take first" },
  { value: "name", label: "by name" },
];

/** Students in an order; the server's rows come with who needs the ear most first. */
export function inOrder(students: Student[], rows: Map<number, ClassRow>, order: ClassOrder): Student[] {
  const byName = [...students].sort((a, b) => a.name.localeCompare(b.name));
  if (order === "name") return byName;
  const places = new Map([...rows.keys()].map((id, place) => [id, place]));
  const rank = (s: Student) =>
    order === "ear"
      ? (places.get(s.id) ?? Number.POSITIVE_INFINITY)
      : Date.parse(rows.get(s.id)?.newest_take ?? "1970-01-01");
  return byName.sort((a, b) => (rank(a) === rank(b) ? 0 : rank(a) - rank(b)));
}

const plural = (count: number, one: string) => `${count} ${count === 1 ? one : `${one}s`}`;

/** What stands under a student's name: what waits for the teacher, what they work on, when they last sent something. */
export function needWords(
  student: Student,
  needs: Needs | undefined,
  row: ClassRow | undefined,
  zone: string,
): string {
  return [
    needs?.held && "rests: something hurts",
    row && row.waiting > 0 && `${plural(row.waiting, "take")} to judge`,
    needs && needs.steps > 0 && `${plural(needs.steps, "step")} to confirm`,
    needs?.works_on === 0 && "works on nothing",
    needs && needs.works_on > 0 && plural(needs.works_on, "drill"),
    needs && needs.minutes_this_week > 0 && `${minutesWords(needs.minutes_this_week)} this week`,
    student.takes === 0
      ? "no take yet"
      : row && !row.takes.some((count) => count > 0) && row.newest_take
        ? `last take ${day(row.newest_take, zone)}`
        : null,
    !student.account && "no account yet",
    !student.agreed && "no consent to recording",
  ]
    .filter(Boolean)
    .join(", ");
}

/** A cell for somebody who hears the page. */
export function cellWords(cell: ClassCell): string {
  const weeks = cell.weeks.map((w) => (w === null ? "none" : w.percent.toFixed(0))).join(", ");
  return `${cell.now ? `${shareWords(cell.now)} clean of ${cell.now.notes} notes in two weeks` : "nothing in two weeks"}; by weeks ${weeks}`;
}

export function dayMarkWords({ takes, minutes }: Pick<ClassRow, "takes" | "minutes">): string {
  const some = (counts: number[]) => counts.filter((count) => count > 0).length;
  return `Of ${takes.length} days: takes on ${some(takes)}, practice written down on ${some(minutes)}`;
}
