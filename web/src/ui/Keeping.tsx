import { useQuery } from "@tanstack/react-query";
import { type Keeping, keepingQuery } from "~/api/consent";
import { day } from "~/lib/words";

/** What is about to be deleted because the studio keeps it for a time only; nothing where nothing is. */
export function AboutToGo({ zone, own = false }: { zone: string; own?: boolean }) {
  const keeping = useQuery({ ...keepingQuery, staleTime: 3_600_000 });
  const lines = keeping.data ? goingWords(keeping.data, zone, own) : [];
  if (lines.length === 0) return null;
  return (
    <div className="mb-4 max-w-3xl border-l-4 border-rule-strong pl-3 text-sm" data-testid="about-to-go">
      {lines.map((line) => (
        <p key={line}>{line}</p>
      ))}
    </div>
  );
}

export function goingWords(keeping: Keeping, zone: string, own: boolean): string[] {
  const { recordings, recordings_from, former_students, former_from } = keeping;
  const lines: string[] = [];
  if (recordings > 0 && recordings_from) {
    const many = `${recordings} ${own ? "of your " : ""}${recordings === 1 && !own ? "recording" : "recordings"}`;
    lines.push(
      `From ${day(recordings_from, zone)} on ${many} will be deleted; the results stay. Download what should be kept.`,
    );
  }
  if (former_students.length > 0 && former_from)
    lines.push(
      `From ${day(former_from, zone)} on everything of ${former_students.join(", ")}, who left, will be deleted.`,
    );
  return lines;
}
