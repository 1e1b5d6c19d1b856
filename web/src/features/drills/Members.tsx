import type { DrillContent } from "~/api/client";

/** The drills of a set, in their order, with the bar each begins at. */
export function Members({ content }: { content: DrillContent }) {
  const members = content.members ?? [];
  if (members.length === 0) return null;
  const perBar = content.tempo?.beats_per_bar ?? 4;
  return (
    <details className="mt-3 text-sm" data-testid="members">
      <summary className="cursor-pointer font-semibold">{members.length} drills in this set</summary>
      <ol className="mt-2 columns-2 gap-x-8 sm:columns-3">
        {members.map((member) => (
          <li key={member.from_beat} className="break-inside-avoid">
            {member.title},{" "}
            <span className="text-ink-soft">bar {Math.round(member.from_beat / perBar) + 1}</span>
          </li>
        ))}
      </ol>
    </details>
  );
}
