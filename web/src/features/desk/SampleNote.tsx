import type { DeskRow } from "~/api/client";
import { api } from "~/api/client";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Failed } from "~/ui/states";

/** The name the server gives the student of the sample. */
const SAMPLE = "Sample student (invented)";

/** While the sample is here: what it is, and the one press that removes it. */
export function SampleNote({ rows }: { rows: readonly DeskRow[] }) {
  const remove = useAct(() => api.DELETE("/api/v1/reports/sample"), [["takes"], ["students"], ["reports"]]);
  if (!rows.some((row) => row.student === SAMPLE)) return null;
  return (
    <div
      className="mb-3 flex flex-wrap items-center gap-3 border-l-4 border-rule-strong pl-3 text-sm"
      data-testid="sample"
    >
      <p>
        The sample take is played by the simulated student; open it, and remove it when you have seen enough.
      </p>
      <Button disabled={remove.isPending} onClick={() => remove.mutate()}>
        Remove the sample
      </Button>
      {remove.error && <Failed error={remove.error} />}
    </div>
  );
}
