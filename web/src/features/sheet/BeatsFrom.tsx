import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Take, type TakeMeasured } from "~/api/client";
import { takesQuery } from "~/api/queries";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";

type Click = NonNullable<Take["click"]>;

/** A teacher's word on where the beats of a take lie; the take is measured again, what was recorded stays. */
export function BeatsFrom({ measured }: { measured: TakeMeasured }) {
  const { take, drill, analysis } = measured;
  const { grid } = analysis.reference;
  const queries = useQueryClient();
  const [first, setFirst] = useState(grid.first_beat_s?.toFixed(3) ?? "");
  const [how, setHow] = useState("found");
  const tempo = drill.content.tempo;
  const say = useMutation({
    mutationFn: (click: Click | null) =>
      api.PUT("/api/v1/takes/{take_id}/click", { params: { path: { take_id: take.id } }, body: { click } }),
    onSuccess: () => queries.invalidateQueries({ queryKey: takesQuery.queryKey }),
  });
  if (!tempo || analysis.setup) return null;
  const told = (part: Partial<Click>): Click => ({
    format: "fortimetra-click",
    version: 1,
    source: "none",
    bpm: grid.bpm ?? tempo.bpm,
    first_beat_s: null,
    beats_per_bar: tempo.beats_per_bar,
    latency_ms: null,
    channel: null,
    ...part,
  });
  const seconds = Number(first);
  const fits = how !== "told" || (first !== "" && Number.isFinite(seconds) && seconds >= 0);
  const act = () => {
    if (how === "found") say.mutate(null);
    else if (how === "notes") say.mutate(told({}));
    // Told by ear from the recording itself, so there is no delay left in it.
    else say.mutate(told({ source: "audible", first_beat_s: seconds, latency_ms: 0 }));
  };
  return (
    <details className="mt-1 mb-3 text-sm print:hidden" data-testid="beats-from">
      <summary className="cursor-pointer py-1">Correct where the beats lie</summary>
      <div className="mt-1 flex flex-wrap items-end gap-3">
        <div className="w-64">
          <Select
            label="Beats from"
            value={how}
            onChange={setHow}
            choices={[
              { value: "found", label: "the click, as recorded or found" },
              { value: "notes", label: "the notes (fitted)" },
              { value: "told", label: "a place I say" },
            ]}
          />
        </div>
        {how === "told" && (
          <Field
            label="First beat at"
            unit="s"
            className="w-32"
            value={first}
            onText={setFirst}
            inputMode="decimal"
          />
        )}
        <Button className="min-h-9" onClick={act} disabled={!fits || say.isPending}>
          Measure again
        </Button>
      </div>
      {say.error && <Failed error={say.error} />}
    </details>
  );
}
