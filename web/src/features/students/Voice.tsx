import { useQuery } from "@tanstack/react-query";
import { voiceQuery } from "~/api/queries";
import { onWords, percentWords } from "~/lib/words";
import { FigureTable } from "~/ui/FigureTable";
import { Failed } from "~/ui/states";

const COLUMNS = [
  { label: "On", words: true },
  { label: "String" },
  { label: "Takes" },
  { label: "Rate, Hz" },
  { label: "Width, cents" },
  { label: "Uneven in time" },
  { label: "in width" },
];

/** How this student's vibrato is, by context: a voice, not a fault. */
export function Voice({ studentId }: { studentId: number }) {
  const voice = useQuery(voiceQuery(studentId));
  if (voice.error) return <Failed error={voice.error} onRetry={() => voice.refetch()} />;
  if (!voice.data?.length) return null;
  const span = ([low, high]: readonly [number, number], digits: number) =>
    low.toFixed(digits) === high.toFixed(digits) ? "" : ` (${low.toFixed(digits)}–${high.toFixed(digits)})`;
  return (
    <section aria-label="Vibrato" className="lg:col-span-2" data-testid="voice">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Vibrato</h2>
      <FigureTable
        columns={COLUMNS}
        rows={voice.data.map((row) => ({
          key: `${row.on}/${row.string}`,
          cells: [
            onWords(row.on),
            row.string,
            row.takes,
            row.rate_hz.toFixed(1) + span(row.rate_range, 1),
            row.extent_cents.toFixed(0) + span(row.extent_range, 0),
            percentWords(row.rate_cv),
            percentWords(row.extent_cv),
          ],
        }))}
      />
      <p className="mt-2 text-sm text-ink-soft">
        Medians of the newest takes with vibrato. Rate and width are a voice of one’s own; only evenness is
        judged.
      </p>
    </section>
  );
}
