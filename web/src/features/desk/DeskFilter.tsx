import { useQuery } from "@tanstack/react-query";
import { type DeskAsked, studentsQuery } from "~/api/queries";
import { familyWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";

const EVERYBODY = "all";
export const SHOWS: { value: DeskAsked["show"]; label: string }[] = [
  { value: "waiting", label: "To judge" },
  { value: "judged", label: "Judged" },
  { value: "all", label: "All" },
];

export interface DeskFilterProps {
  filter: DeskAsked;
  setFilter: (part: Partial<DeskAsked>) => void;
  /** Families of the takes that are shown; null before they are known. */
  families: readonly string[] | null;
}

/** Which takes are shown: waiting, judged or all; whose; of which kind of drill. */
export function DeskFilter({ filter, setFilter, families }: DeskFilterProps) {
  const students = useQuery(studentsQuery);
  return (
    <>
      <fieldset className="flex gap-1">
        <legend className="sr-only">Which takes</legend>
        {SHOWS.map(({ value, label }) => (
          <Button
            key={value}
            className="min-h-9"
            aria-pressed={filter.show === value}
            onClick={() => setFilter({ show: value })}
          >
            {label}
          </Button>
        ))}
      </fieldset>
      {/* Most studios have several of both: nothing moves when they come. */}
      {(students.data?.length ?? 2) > 1 && (
        <div className="w-44">
          <Select
            label="Student"
            value={filter.student_id === undefined ? EVERYBODY : String(filter.student_id)}
            onChange={(value) => setFilter({ student_id: value === EVERYBODY ? undefined : Number(value) })}
            choices={[
              { value: EVERYBODY, label: "All students" },
              ...(students.data ?? []).map((s) => ({ value: String(s.id), label: s.name })),
            ]}
          />
        </div>
      )}
      {(families === null || families.length > 1 || filter.family !== undefined) && (
        <div className="w-52">
          <Select
            label="Kind of drill"
            value={filter.family ?? EVERYBODY}
            onChange={(value) => setFilter({ family: value === EVERYBODY ? undefined : value })}
            choices={[
              { value: EVERYBODY, label: "All kinds" },
              ...[...new Set([...(families ?? []), ...(filter.family ? [filter.family] : [])])].map((f) => ({
                value: f,
                label: familyWords(f),
              })),
            ]}
          />
        </div>
      )}
    </>
  );
}
