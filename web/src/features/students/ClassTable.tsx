import { useMemo, useState } from "react";
import { Link } from "react-router";
import type { Student } from "~/api/client";
import type { ClassCell, ClassRead, ClassRow, Needs } from "~/api/week";
import { dayWords, minutesWords } from "~/lib/days";
import { measureWords } from "~/lib/words";
import { Select } from "~/ui/Select";
import { ShareNow, ShareTrend } from "~/ui/ShareTrend";
import { type ClassOrder, cellWords, dayMarkWords, inOrder, needWords, ORDERS } from "./class.math";
import { TakesBehind } from "./TakesBehind";

const SKILLS = ["pitch", "bend", "vibrato", "timing", "level", "length", "noise"] as const;
const head = "border-b border-ink px-2 pb-1 text-left font-normal text-ink-soft";
const FROM_WHICH_SEARCH_HELPS = 12;

/** Everybody by what is judged: who needs an ear, where it goes up or down, who has sent nothing. */
export function ClassTable({
  students,
  needs,
  found,
  zone,
}: {
  students: Student[];
  needs: Map<number, Needs>;
  found: ClassRead | undefined;
  zone: string;
}) {
  const [order, setOrder] = useState<ClassOrder>("ear");
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<{ row: ClassRow; cell: ClassCell } | null>(null);
  const byId = useMemo(() => new Map(found?.rows.map((row) => [row.student_id, row])), [found]);
  const shown = inOrder(students, byId, order).filter((s) =>
    s.name.toLowerCase().includes(name.trim().toLowerCase()),
  );
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
        <div className="w-56">
          <Select
            label="Order"
            value={order}
            choices={ORDERS}
            onChange={(value) => setOrder(value as ClassOrder)}
          />
        </div>
        {students.length > FROM_WHICH_SEARCH_HELPS && (
          <label className="flex flex-col gap-1 text-sm text-ink-soft">
            Find a student
            <input
              className="min-h-9 w-56 rounded-md border border-rule-strong bg-sheet px-3 text-base text-ink"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
        )}
        <p className="max-w-[46rem] text-sm text-ink-soft">
          Notes within tolerance in percent, the last two weeks, and eight weeks as a line; the band is 95 %
          and more. What is surely less is coloured. Press a figure for its takes.
        </p>
      </div>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-sm" data-testid="students">
          <thead>
            <tr>
              <th scope="col" className={`${head} pl-0`}>
                Student
              </th>
              <th scope="col" className={head}>
                Last two weeks
              </th>
              {SKILLS.map((skill) => (
                <th key={skill} scope="col" className={`${head} first-letter:uppercase`}>
                  {measureWords(skill)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((student) => (
              <Line
                key={student.id}
                student={student}
                needs={needs.get(student.id)}
                row={byId.get(student.id)}
                days={found?.days ?? []}
                zone={zone}
                onCell={(row, cell) => setChosen({ row, cell })}
              />
            ))}
          </tbody>
        </table>
        {shown.length === 0 && <p className="py-4 text-ink-soft">No student of that name.</p>}
      </div>
      {chosen && (
        <TakesBehind row={chosen.row} cell={chosen.cell} zone={zone} onClose={() => setChosen(null)} />
      )}
    </>
  );
}

function Line({
  student,
  needs,
  row,
  days,
  zone,
  onCell,
}: {
  student: Student;
  needs: Needs | undefined;
  row: ClassRow | undefined;
  days: string[];
  zone: string;
  onCell: (row: ClassRow, cell: ClassCell) => void;
}) {
  const cell = "border-b border-rule px-2 py-1.5 align-middle";
  return (
    <tr className="hover:bg-sheet" data-student={student.name}>
      <th scope="row" className={`${cell} sticky left-0 min-w-40 bg-paper pl-0 text-left font-normal`}>
        <Link to={`/students/${student.id}`} className="text-base font-semibold hover:underline">
          {student.name}
        </Link>
        <span className="block max-w-64 text-ink-soft">{needWords(student, needs, row, zone)}</span>
      </th>
      <td className={cell}>{row && <DayMarks row={row} days={days} />}</td>
      {SKILLS.map((skill) => {
        const found = row?.cells.find((c) => c.skill === skill);
        return (
          <td key={skill} className={`${cell} p-0`}>
            {row && found?.weeks.some((w) => w !== null) && (
              <button
                type="button"
                className="flex items-center gap-1.5 rounded-sm px-2 py-1.5 hover:shadow-[inset_0_0_0_1px_var(--rule-strong)]"
                aria-label={`${student.name}, ${measureWords(skill)}: ${cellWords(found)}`}
                onClick={() => onCell(row, found)}
              >
                <ShareTrend shares={found.weeks} width={62} />
                {found.now ? <ShareNow share={found.now} /> : <span className="text-ink-soft">–</span>}
              </button>
            )}
          </td>
        );
      })}
    </tr>
  );
}

/** Fourteen days: a take sent, practice written down, nothing. */
function DayMarks({ row, days }: { row: ClassRow; days: string[] }) {
  return (
    <svg width={14 * 8} height={16} role="img" aria-label={dayMarkWords(row)} className="block">
      {days.map((day, i) => {
        const [takes, minutes] = [row.takes[i] ?? 0, row.minutes[i] ?? 0];
        return (
          <g key={day}>
            <title>{`${dayWords(day)}: ${takes} ${takes === 1 ? "take" : "takes"}, ${minutesWords(minutes)}`}</title>
            {takes > 0 ? (
              <rect x={i * 8 + 0.5} y={4.5} width={6} height={7} fill="var(--ink)" />
            ) : minutes > 0 ? (
              <rect x={i * 8 + 1} y={5} width={5} height={6} fill="none" stroke="var(--ink-soft)" />
            ) : (
              <rect x={i * 8 + 2.5} y={7.5} width={2} height={1} fill="var(--rule-strong)" />
            )}
          </g>
        );
      })}
    </svg>
  );
}
