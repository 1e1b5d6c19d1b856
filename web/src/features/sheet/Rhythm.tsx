import type { TakeMeasured } from "~/api/client";
import { plusMinus, signed } from "~/lib/words";
import { FigureTable } from "~/ui/FigureTable";
import { heardWords, rhythmFacts } from "~/ui/take/rhythm.math";
import { FactList } from "./FactList";

const GROUPS = [
  { label: "Place in the group" },
  { label: "Notes" },
  { label: "Onset, ms" },
  { label: "Volume, dB" },
];
const PACES = [
  { label: "Notes a second" },
  { label: "Notes" },
  { label: "Onset, ms" },
  { label: "Unsteady, ms" },
  { label: "Spread, dB" },
];
const STRINGS = [{ label: "String" }, { label: "Notes" }, { label: "Volume, dB" }, { label: "Spread, dB" }];

/** What the take as a whole says of time, volume and length. */
export function Rhythm({ measured }: { measured: TakeMeasured }) {
  const { summary, extras } = measured.analysis;
  const asked = measured.drill.content.measures;
  if (!["timing", "level", "length"].some((m) => asked.includes(m as (typeof asked)[number]))) return null;
  const facts = rhythmFacts({
    ...summary,
    timing: asked.includes("timing") ? summary.timing : null,
    level: asked.includes("level") ? summary.level : null,
    length: asked.includes("length") ? (summary.length ?? null) : null,
    fastest_even_run_nps: asked.includes("timing") ? summary.fastest_even_run_nps : null,
  });
  const groups = summary.timing?.groups ?? [];
  const paces = summary.timing?.paces ?? [];
  const strings = summary.level?.strings ?? [];
  const heard = heardWords(summary, extras);
  return (
    <section aria-label="Time and touch" className="mb-6" data-testid="rhythm">
      <h2 className="text-lg font-semibold">Time and touch</h2>
      {heard && (
        <p className="mb-1" data-testid="heard">
          {heard}
        </p>
      )}
      <FactList facts={facts} />
      <div className="grid gap-4">
        {asked.includes("timing") && groups.length > 1 && (
          <FigureTable
            columns={GROUPS}
            rows={groups.map((g) => ({
              key: String(g.place),
              cells: [
                g.place,
                g.count,
                `${signed(g.error_ms)} ${plusMinus(g.u)}`,
                g.level_db === null ? "–" : signed(g.level_db),
              ],
            }))}
          />
        )}
        {paces.length > 1 && (
          <FigureTable
            columns={PACES}
            rows={paces.map((p) => ({
              key: String(p.slot_beats),
              cells: [
                p.notes_per_s.toFixed(1),
                p.count,
                signed(p.bias_ms),
                p.jitter_ms.toFixed(1),
                p.spread_db?.toFixed(1) ?? "–",
              ],
            }))}
          />
        )}
        {asked.includes("level") && strings.length > 1 && (
          <FigureTable
            columns={STRINGS}
            rows={strings.map((s) => ({
              key: String(s.string),
              cells: [s.string, s.count, signed(s.level_db), s.spread_db.toFixed(1)],
            }))}
          />
        )}
      </div>
    </section>
  );
}
