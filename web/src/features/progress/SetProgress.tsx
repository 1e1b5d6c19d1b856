import { Link } from "react-router";
import type { Progress } from "~/api/week";
import { dayAndTime } from "~/lib/words";

/** Of a set: each of its drills over the newest takes, percent clean. */
export function SetProgress({ members, zone }: { members: Progress["members"]; zone: string }) {
  const takes = members[0]?.takes ?? [];
  if (takes.length === 0) return null;
  return (
    <section aria-labelledby="set-progress" className="mt-6 overflow-x-auto" data-testid="set-progress">
      <h3 id="set-progress" className="text-lg font-semibold">
        The drills of the set, per cent clean
      </h3>
      <table className="mt-1 text-sm">
        <thead>
          <tr className="border-b border-ink text-left">
            <th className="py-1 pr-8">Drill</th>
            {takes.map((take) => (
              <th key={take.take_id} className="pr-6 text-right font-normal">
                <Link className="underline" to={`/takes/${take.take_id}`}>
                  {dayAndTime(take.played_at, zone)}
                </Link>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {members.map((member) => (
            <tr key={member.title} className="border-b border-rule">
              <td className="py-1 pr-8">{member.title}</td>
              {takes.map((take) => (
                <td key={take.take_id} className="figures pr-6 text-right">
                  {member.takes.find((t) => t.take_id === take.take_id)?.percent.toFixed(0) ?? ""}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
