import type { TakeMeasured } from "~/api/client";
import { bendWords, onWords, percentWords, plusMinus, signed } from "~/lib/words";
import { FigureTable } from "~/ui/FigureTable";

type Summary = TakeMeasured["analysis"]["summary"];

const BENDS = [
  { label: "String" },
  { label: "Fret" },
  { label: "Bend", words: true },
  { label: "Times" },
  { label: "Error, cents" },
  { label: "Spread" },
];
const VIBRATOS = [
  { label: "String" },
  { label: "On", words: true },
  { label: "Times" },
  { label: "Rate, Hz" },
  { label: "Width, cents" },
  { label: "Uneven in time" },
  { label: "in width" },
];

/** Bends by place and vibratos by string, where a take has several of a kind. */
export function Groups({ summary }: { summary: Summary }) {
  const bends = summary.bends ?? [];
  const vibratos = summary.vibratos ?? [];
  return (
    <>
      {bends.length > 1 && (
        <section aria-label="Bends by place" className="mb-6" data-testid="bends-by-place">
          <h2 className="text-lg font-semibold">Bends by place</h2>
          <FigureTable
            columns={BENDS}
            rows={bends.map((row) => ({
              key: `${row.string}/${row.fret}/${row.target_cents}`,
              cells: [
                row.string,
                row.fret,
                bendWords(row.target_cents),
                row.count,
                `${signed(row.median_error_cents)} ${plusMinus(row.u)}`,
                row.spread_cents?.toFixed(1) ?? "–",
              ],
            }))}
          />
        </section>
      )}
      {vibratos.length > 1 && (
        <section aria-label="Vibrato by string" className="mb-6" data-testid="vibrato-by-string">
          <h2 className="text-lg font-semibold">Vibrato by string</h2>
          <FigureTable
            columns={VIBRATOS}
            rows={vibratos.map((row) => ({
              key: `${row.string}/${row.on}`,
              cells: [
                row.string,
                onWords(row.on),
                row.count,
                row.rate_hz.toFixed(2),
                row.extent_cents.toFixed(0),
                percentWords(row.rate_cv),
                percentWords(row.extent_cv),
              ],
            }))}
          />
        </section>
      )}
    </>
  );
}
