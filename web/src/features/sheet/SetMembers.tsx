import type { TakeMeasured } from "~/api/client";

/** Of a set: what came of each of its drills. */
export function SetMembers({ summary }: { summary: TakeMeasured["analysis"]["summary"] }) {
  const members = summary.members ?? [];
  if (members.length === 0) return null;
  return (
    <section aria-labelledby="set-members" className="mt-6" data-testid="set-members">
      <h2 id="set-members" className="text-lg font-semibold">
        The drills of the set
      </h2>
      <table className="mt-1 text-sm">
        <thead>
          <tr className="border-b border-ink text-left">
            <th className="py-1 pr-8">Drill</th>
            <th className="pr-6 text-right">Clean</th>
            <th className="pr-6 text-right">Not clean</th>
            <th className="pr-6 text-right">Cannot tell</th>
            <th className="pr-6 text-right">Missed</th>
            <th className="w-40">Share clean</th>
          </tr>
        </thead>
        <tbody>
          {members.map((member) => (
            <tr key={member.title} className="border-b border-rule">
              <td className="py-1 pr-8">{member.title}</td>
              <td className="figures pr-6 text-right">
                {member.clean} of {member.asked}
              </td>
              <td className="figures pr-6 text-right">{member.not_clean}</td>
              <td className="figures pr-6 text-right">{member.unclear}</td>
              <td className="figures pr-6 text-right">{member.missed}</td>
              <td>
                <span className="block h-2 bg-rule">
                  <span
                    className="block h-2 bg-ink"
                    style={{ width: `${(100 * member.clean) / Math.max(1, member.asked)}%` }}
                  />
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
