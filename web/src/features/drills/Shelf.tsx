import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { DrillDetail } from "~/api/client";
import { changeDrill } from "~/api/drills";
import { drillsQuery } from "~/api/queries";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";
import { LEVELS } from "./drill.math";

const NONE = "none";

/** Where a drill stands in the library: its level and tags. */
export function Shelf({ drill }: { drill: DrillDetail }) {
  const queries = useQueryClient();
  const drills = useQuery(drillsQuery);
  const family = (drills.data ?? []).filter(
    (other) =>
      other.id !== drill.id &&
      (other.id === drill.after?.id || (other.family === drill.family && !other.archived)),
  );
  const put = useMutation({
    mutationFn: (change: { level?: number | null; tags?: string[]; after_id?: number | null }) =>
      changeDrill(drill.id, change),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["drills"] }),
  });
  return (
    <div className="mt-4 flex flex-wrap items-end gap-4 print:hidden" data-testid="shelf">
      <div className="w-40">
        <Select
          label="Level"
          value={drill.level === null ? NONE : String(drill.level)}
          onChange={(level) => put.mutate({ level: level === NONE ? null : Number(level) })}
          choices={[
            { value: NONE, label: "not said" },
            ...LEVELS.map((label, i) => ({ value: String(i + 1), label })),
          ]}
        />
      </div>
      <Field
        key={drill.tags.join()}
        label="Tags, with commas"
        words
        className="w-72"
        defaultValue={drill.tags.join(", ")}
        onBlur={(event) => {
          const tags = event.target.value
            .split(",")
            .map((tag) => tag.trim())
            .filter(Boolean);
          if (tags.join() !== drill.tags.join()) put.mutate({ tags });
        }}
      />
      <div className="w-72">
        <Select
          label="What comes before it"
          value={drill.after === null ? NONE : String(drill.after.id)}
          onChange={(id) => put.mutate({ after_id: id === NONE ? null : Number(id) })}
          choices={[
            { value: NONE, label: "nothing" },
            ...family.map((other) => ({ value: String(other.id), label: other.title })),
          ]}
        />
      </div>
      {put.error && <Failed error={put.error} />}
    </div>
  );
}
