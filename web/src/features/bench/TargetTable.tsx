import { Volume2 } from "lucide-react";
import type { TargetRead } from "~/api/client";
import { useSound } from "~/lib/useSound";
import { signed } from "~/lib/words";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";

const HEAD = [
  "Fret",
  "Fretted",
  "Target",
  "Hz",
  "Same string",
  "Other strings",
  "Open strings",
  "10 cents off",
];

/** The same bend at every fret of the string, with a tone for each. */
export function TargetTable({ targets, fret }: { targets: TargetRead[]; fret: number }) {
  const sound = useSound();
  return (
    <div className="mt-8 overflow-x-auto">
      <table className="w-full border-collapse text-sm" data-testid="target-table">
        <caption className="pb-1 text-left font-semibold">The same bend at every fret of this string</caption>
        <thead>
          <tr>
            {HEAD.map((title) => (
              <th
                key={title}
                scope="col"
                className="border-b border-ink py-1 pr-4 text-left font-normal text-ink-soft"
              >
                {title}
              </th>
            ))}
            <th className="border-b border-ink" />
          </tr>
        </thead>
        <tbody>
          {targets.map((target) => {
            const tone = `/api/v1/bench/tone?hz=${target.hz.toFixed(3)}&seconds=3`;
            const off = Math.round(target.cents_off);
            const cell = "border-b border-rule py-0.5 pr-4 whitespace-nowrap";
            return (
              <tr key={target.fret} className={cx(target.fret === fret && "bg-corridor")}>
                <th scope="row" className={`${cell} figures text-left`}>
                  {target.fret}
                </th>
                <td className={cell}>{target.fretted_note}</td>
                <td className={`${cell} font-semibold`}>
                  {target.note}
                  {off === 0 ? "" : ` ${signed(off, 0)}`}
                </td>
                <td className={`${cell} figures`}>{target.hz.toFixed(2)}</td>
                <td className={cell}>
                  {target.same_string_fret === null ? "–" : `fret ${target.same_string_fret}`}
                </td>
                <td className={`${cell} figures`}>
                  {target.partners.map((p) => `${p.string}:${p.fret}`).join("  ") || "–"}
                </td>
                <td className={`${cell} figures`}>
                  {target.open_checks
                    .map((p) => (p.octaves ? `${p.string} (${signed(p.octaves, 0)})` : p.string))
                    .join("  ") || "–"}
                </td>
                <td className={`${cell} figures`}>
                  {target.beats.find((b) => b.cents === 10)?.beats_hz.toFixed(2)} /s
                </td>
                <td className={cell}>
                  <Button
                    kind="quiet"
                    className="min-h-6 px-1"
                    aria-label={`Hear the target at fret ${target.fret}`}
                    aria-pressed={sound.playing === tone}
                    onClick={() => (sound.playing === tone ? sound.stop() : sound.play(tone))}
                  >
                    <Volume2 size={14} aria-hidden />
                  </Button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-1 text-xs text-ink-soft">
        Other strings as string:fret; open strings with the octaves they lie above (+) or below (−) the
        target.
      </p>
    </div>
  );
}
