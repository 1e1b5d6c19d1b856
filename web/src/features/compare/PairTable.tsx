import { useState } from "react";
import { verdictWords } from "~/lib/words";
import { Button } from "~/ui/Button";
import { FigureTable } from "~/ui/FigureTable";
import { type Comparison, changeWords, differenceName, differenceWords } from "~/ui/take/compare.math";

const COLUMNS = [
  { label: "Note" },
  { label: "Repeat" },
  { label: "Earlier", words: true },
  { label: "Later", words: true },
  { label: "Beyond the uncertainty", words: true },
];
const SHOWN = 9;

/** Note by note: those whose verdict or values changed. */
export function PairTable({ pairs }: { pairs: Comparison["pairs"] }) {
  const [all, setAll] = useState(false);
  const changed = pairs
    .map((pair, index) => ({ pair, place: index + 1, clear: pair.differences.filter((d) => d.clear) }))
    .filter(({ pair, clear }) => pair.before !== pair.after || clear.length > 0);
  const rows = all ? changed : changed.slice(0, SHOWN);
  return (
    <section aria-label="Note by note" data-testid="pairs">
      <h2 className="mb-1 text-lg font-semibold">Note by note</h2>
      {changed.length === 0 ? (
        <p>No note differs by more than the uncertainty.</p>
      ) : (
        <FigureTable
          columns={COLUMNS}
          rows={rows.map(({ pair, place, clear }) => ({
            key: String(place),
            cells: [
              place,
              pair.repeat + 1,
              pair.before ? verdictWords(pair.before) : "not judged",
              pair.after ? verdictWords(pair.after) : "not judged",
              clear
                .map(
                  (d) =>
                    `${differenceName(d.code).toLowerCase()} ${changeWords(d)} ${d.unit} (${differenceWords(d)})`,
                )
                .join("; ") || "nothing",
            ],
          }))}
        />
      )}
      {changed.length > SHOWN && (
        <Button kind="quiet" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${changed.length}`}
        </Button>
      )}
    </section>
  );
}
