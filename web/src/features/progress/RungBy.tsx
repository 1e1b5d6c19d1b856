import type { Progress } from "~/api/week";

/** Strings that rang in the newest takes, by whose job it was to keep them quiet. */
export function RungBy({ rung }: { rung: Progress["rung"] }) {
  if (rung.length === 0) return null;
  return (
    <section aria-labelledby="rung-by" className="mt-6" data-testid="rung-by">
      <h3 id="rung-by" className="text-lg font-semibold">
        What rang, by whose job it was
      </h3>
      <table className="mt-1 text-sm">
        <thead>
          <tr className="border-b border-ink text-left">
            <th className="py-1 pr-8">Part of the hand</th>
            <th className="pr-6">Strings</th>
            <th className="pr-6 text-right">Rings</th>
            <th className="pr-6 text-right">Takes</th>
            <th className="pr-6 text-right">Level</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rung.map((row) => (
            <tr key={row.says} className="border-b border-rule">
              <td className="py-1 pr-8 first-letter:uppercase">{row.says}</td>
              <td className="figures pr-6">{row.strings.join(", ")}</td>
              <td className="figures pr-6 text-right">{row.count}</td>
              <td className="figures pr-6 text-right">{row.takes}</td>
              <td className="figures pr-6 text-right">{row.level_db.toFixed(0).replace("-", "−")} dB</td>
              <td className="text-ink-soft">
                {row.moving * 2 >= row.count &&
                  row.moving > 1 &&
                  "mostly where it has to move: it comes late"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
