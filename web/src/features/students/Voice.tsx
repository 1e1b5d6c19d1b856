import { useQuery } from "@tanstack/react-query";
import { voiceQuery } from "~/api/queries";
import { Failed } from "~/ui/states";

const HEAD = "py-1 pr-4 font-normal text-ink-soft";

/** How this student's vibrato is, by context: a voice, not a fault. */
export function Voice({ studentId }: { studentId: number }) {
  const voice = useQuery(voiceQuery(studentId));
  if (voice.error) return <Failed error={voice.error} onRetry={() => voice.refetch()} />;
  if (!voice.data?.length) return null;
  const span = ([low, high]: readonly [number, number], digits: number) =>
    low.toFixed(digits) === high.toFixed(digits) ? "" : `${low.toFixed(digits)}–${high.toFixed(digits)}`;
  return (
    <section aria-label="Vibrato" className="lg:col-span-2" data-testid="voice">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Vibrato</h2>
      <div className="overflow-x-auto">
        <table className="w-full max-w-3xl border-collapse text-sm">
          <thead>
            <tr className="border-b border-rule text-left">
              {["On", "String", "Takes", "Rate, Hz", "Width, cents", "Uneven in time", "in width"].map(
                (label, i) => (
                  <th key={label} scope="col" className={i > 1 ? `${HEAD} text-right` : HEAD}>
                    {label}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {voice.data.map((row) => (
              <tr key={`${row.on}/${row.string}`} className="border-b border-rule">
                <td className="py-1.5 pr-4">{row.on === "bent" ? "a bend" : "a fretted note"}</td>
                <td className="figures pr-4">{row.string}</td>
                <td className="figures pr-4 text-right">{row.takes}</td>
                <td className="figures pr-4 text-right">
                  {row.rate_hz.toFixed(1)} <span className="text-ink-soft">{span(row.rate_range, 1)}</span>
                </td>
                <td className="figures pr-4 text-right">
                  {row.extent_cents.toFixed(0)}{" "}
                  <span className="text-ink-soft">{span(row.extent_range, 0)}</span>
                </td>
                <td className="figures pr-4 text-right">{(100 * row.rate_cv).toFixed(0)} %</td>
                <td className="figures pr-4 text-right">{(100 * row.extent_cv).toFixed(0)} %</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-2 text-sm text-ink-soft">
        Medians of the newest takes with vibrato. Rate and width are a voice of one’s own; only evenness is
        judged.
      </p>
    </section>
  );
}
