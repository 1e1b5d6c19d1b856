import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Take, TakeMeasured } from "~/api/client";
import { drillsQuery } from "~/api/queries";
import { numberIn } from "~/lib/typed";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { Select } from "~/ui/Select";
import { Failed } from "~/ui/states";
import { TOLERANCES } from "~/ui/take/tolerances.math";
import type { Tried, Trying } from "./useTrial";

type Click = NonNullable<Take["click"]>;
const OWN = "own";
const NEWEST = "newest";

/** Everything a take is read against can be corrected: tolerances, beats, drill. What it would do is shown first. */
export function MeasureOtherwise({ measured, trying }: { measured: TakeMeasured; trying: Trying }) {
  const { drill, analysis, take, tolerances } = measured;
  const { grid } = analysis.reference;
  const tempo = drill.content.tempo;
  const drills = useQuery(drillsQuery);
  const [limits, setLimits] = useState<Record<string, string>>({});
  const [beats, setBeats] = useState(OWN);
  const [first, setFirst] = useState(grid.first_beat_s?.toFixed(3) ?? "");
  const [other, setOther] = useState(OWN);
  if (analysis.setup) return null;
  const offered = TOLERANCES.filter(
    ({ name, measure }) =>
      (tolerances[name] !== undefined || name === "onset_ms") && drill.content.measures.includes(measure),
  );
  const changed = Object.entries(limits).filter(
    ([name, text]) => numberIn(text) !== null && numberIn(text) !== tolerances[name],
  );
  const wrong = changed.some(([, text]) => Number.isNaN(numberIn(text)));
  const seconds = numberIn(first);
  const placed = beats !== "told" || (seconds !== null && seconds >= 0);
  const act = () => {
    const tried: Partial<Tried> = {};
    if (changed.length) {
      const given = drill.content.tolerances ?? {};
      const own = Object.fromEntries(Object.entries(given).filter(([, v]) => v !== null)) as Record<
        string,
        number
      >;
      tried.tolerances = {
        ...own,
        ...Object.fromEntries(changed.map(([name, text]) => [name, numberIn(text) as number])),
      };
    }
    if (tempo && beats !== OWN) {
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
      if (beats === "found") tried.recorded_click = true;
      // Told by ear from the recording itself, so there is no delay left in it.
      else if (beats === "told")
        tried.click = told({ source: "audible", first_beat_s: seconds, latency_ms: 0 });
      else tried.click = told({});
    }
    if (other === NEWEST) tried.newest_version = true;
    else if (other !== OWN) tried.drill_id = Number(other);
    trying.begin(tried);
  };
  return (
    <details className="mt-1 mb-3 text-sm print:hidden" data-testid="otherwise">
      <summary className="cursor-pointer py-1">Measure again with another tolerance, click or drill</summary>
      <div className="mt-2 grid gap-4 border-l-2 border-rule pl-4">
        <div className="flex flex-wrap gap-3">
          {offered.map(({ name, label, unit }) => (
            <Field
              key={name}
              label={label}
              unit={unit}
              className="w-40"
              inputMode="decimal"
              placeholder={
                tolerances[name] === undefined ? "by length" : String(tolerances[name]).replace("-", "−")
              }
              value={limits[name] ?? ""}
              onText={(text) => setLimits({ ...limits, [name]: text })}
            />
          ))}
        </div>
        <div className="flex flex-wrap items-end gap-3">
          {tempo && (
            <div className="w-64">
              <Select
                label="Beats from"
                value={beats}
                onChange={setBeats}
                choices={[
                  { value: OWN, label: "where they are now" },
                  { value: "found", label: "the click, as recorded or found" },
                  { value: "notes", label: "the notes (fitted)" },
                  { value: "told", label: "a place I say" },
                ]}
              />
            </div>
          )}
          {tempo && beats === "told" && (
            <Field
              label="First beat at"
              unit="s"
              className="w-32"
              value={first}
              onText={setFirst}
              inputMode="decimal"
            />
          )}
          <div className="w-80">
            <Select
              label="Against the drill"
              value={other}
              onChange={setOther}
              choices={[
                { value: OWN, label: `as it was played to (version ${take.drill_version})` },
                { value: NEWEST, label: "its newest version" },
                ...(drills.data ?? [])
                  .filter((d) => d.id !== take.drill_id && d.family !== "set_up")
                  .map((d) => ({ value: String(d.id), label: d.title })),
              ]}
            />
          </div>
          <Button className="min-h-9" onClick={act} disabled={!placed || wrong || trying.pending}>
            {changed.length || beats !== OWN || other !== OWN ? "Show the effect" : "Measure again as it is"}
          </Button>
          {(measured.pins?.length ?? 0) > 0 && (
            <Button className="min-h-9" disabled={trying.pending} onClick={() => trying.begin({ pins: [] })}>
              Without the {measured.pins.length} placed by hand
            </Button>
          )}
        </div>
        {wrong && <p role="alert">A tolerance is a number.</p>}
        {trying.error !== null && !trying.trial && <Failed error={trying.error} />}
      </div>
    </details>
  );
}
