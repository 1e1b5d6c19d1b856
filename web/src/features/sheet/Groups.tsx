import type { TakeMeasured } from "~/api/client";
import { bendWords, plusMinus, signed } from "~/lib/words";

type Summary = TakeMeasured["analysis"]["summary"];
const HEAD = "border-b border-ink py-1 pr-4 text-left font-normal text-ink-soft";
const CELL = "border-b border-rule py-1 pr-4";

/** Bends by place and vibratos by string, where a take has several of a kind. */
export function Groups({ summary }: { summary: Summary }) {
  const bends = (summary.bends ?? []).length > 1 ? summary.bends : [];
  const vibratos = (summary.vibratos ?? []).length > 1 ? summary.vibratos : [];
  return (
    <>
      {bends && bends.length > 0 && (
        <section aria-label="Bends by place" className="mb-6 max-w-xl" data-testid="bends-by-place">
          <h2 className="text-lg font-semibold">Bends by place</h2>
          <table className="w-full border-collapse text-sm">
            <thead>
              <tr>
                {["String", "Fret", "Bend", "Times", "Error, cents", "Spread"].map((label, i) => (
                  <th key={label} scope="col" className={i > 2 ? `${HEAD} text-right` : HEAD}>
                    {label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {bends.map((row) => (
                <tr key={`${row.string}/${row.fret}/${row.target_cents}`}>
                  <td className={`${CELL} figures`}>{row.string}</td>
                  <td className={`${CELL} figures`}>{row.fret}</td>
                  <td className={CELL}>{bendWords(row.target_cents)}</td>
                  <td className={`${CELL} figures text-right`}>{row.count}</td>
                  <td className={`${CELL} figures text-right whitespace-nowrap`}>
                    {signed(row.median_error_cents)} {plusMinus(row.u)}
                  </td>
                  <td className={`${CELL} figures text-right`}>{row.spread_cents?.toFixed(1) ?? "–"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {vibratos && vibratos.length > 0 && (
        <section aria-label="Vibrato by string" className="mb-6 max-w-xl" data-testid="vibrato-by-string">
          <h2 className="text-lg font-semibold">Vibrato by string</h2>
          <table className="w-full border-collapse text-sm">
            <thead>
              <tr>
                {["String", "On", "Times", "Rate, Hz", "Width, cents", "Uneven in time", "in width"].map(
                  (label, i) => (
                    <th key={label} scope="col" className={i > 1 ? `${HEAD} text-right` : HEAD}>
                      {label}
                    </th>
                  ),
                )}
              </tr>
            </thead>
            <tbody>
              {vibratos.map((row) => (
                <tr key={`${row.string}/${row.on}`}>
                  <td className={`${CELL} figures`}>{row.string}</td>
                  <td className={CELL}>{row.on === "bent" ? "a bend" : "a fretted note"}</td>
                  <td className={`${CELL} figures text-right`}>{row.count}</td>
                  <td className={`${CELL} figures text-right`}>{row.rate_hz.toFixed(2)}</td>
                  <td className={`${CELL} figures text-right`}>{row.extent_cents.toFixed(0)}</td>
                  <td className={`${CELL} figures text-right`}>{(100 * row.rate_cv).toFixed(0)} %</td>
                  <td className={`${CELL} figures text-right`}>{(100 * row.extent_cv).toFixed(0)} %</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </>
  );
}
