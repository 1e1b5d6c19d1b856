import { Link } from "react-router";
import type { TakeMeasured } from "~/api/client";
import { day, minus, signed } from "~/lib/words";

const BEATS: Record<string, string> = {
  recorder: "from the recorder's click",
  channel: "from the click on its own channel",
  audible: "from the click in the recording",
  fitted: "fitted to the notes",
};

/** What is known of the recording and of what it was read against, in one line each. */
export function TakeFacts({ measured, zone }: { measured: TakeMeasured; zone: string }) {
  const { take, reference } = measured.analysis;
  const grid = reference.grid;
  const facts = [
    `peak ${minus(take.peak_dbfs.toFixed(1))} dBFS`,
    `floor ${minus(take.noise_floor_dbfs.toFixed(0))} dBFS`,
    take.loudness_lufs === null ? "" : `${minus(take.loudness_lufs.toFixed(1))} LUFS`,
    take.hum ? `hum ${take.hum.hz.toFixed(0)} Hz at ${minus(take.hum.level_dbfs.toFixed(0))} dBFS` : "no hum",
    take.clipped_fraction > 0 ? `${(take.clipped_fraction * 100).toFixed(2)} % clipped` : "not clipped",
    `A4 ${reference.a4_hz} Hz`,
    grid.source === "none"
      ? "no beat grid"
      : `beats ${BEATS[grid.source] ?? grid.source}${grid.bpm ? `, ${grid.bpm.toFixed(1)} bpm` : ""}`,
  ].filter(Boolean);
  return (
    <div className="mt-2 mb-4 text-sm text-ink-soft">
      <ul className="flex flex-wrap gap-x-5 text-xs">
        {facts.map((fact) => (
          <li key={fact} className="tabular-nums">
            {fact}
          </li>
        ))}
      </ul>
      {!measured.analysis.setup && (
        <p className="mt-1" data-testid="set-up-used">
          {measured.setup ? (
            <>
              Read against the{" "}
              <Link className="underline" to={`/takes/${measured.setup.take_id}`}>
                set-up take of {day(measured.setup.played_at, zone)}
              </Link>
              {offsets(reference.string_offset_cents)}
            </>
          ) : (
            "No set-up take of this guitar lies before this one; the guitar is taken from the notes themselves where they allow it."
          )}
        </p>
      )}
      {captureWords(measured).map((line) => (
        <p key={line} className="mt-1 text-ink">
          {line}
        </p>
      ))}
      {take.warnings.map((code) => (
        <p key={code} className="mt-1 text-ink">
          {measured.sentences[code] ?? code}
        </p>
      ))}
    </div>
  );
}

/** What the recorder knew of itself that the reader of numbers should know. */
export function captureWords({ take, analysis }: Pick<TakeMeasured, "take" | "analysis">): string[] {
  const lines: string[] = [];
  const { grid } = analysis.reference;
  if (grid.source === "recorder" && grid.u_ms === null)
    lines.push(
      "The round trip of this device was not measured: early and late cannot be told from its delay. Spread and drift can.",
    );
  const processing = take.capture?.processing ?? [];
  if (processing.length > 0)
    lines.push(
      `The browser applied ${processing.map((p) => p.replaceAll("_", " ")).join(", ")}; levels and decays are not to be trusted.`,
    );
  const gaps = take.capture?.gaps ?? [];
  if (gaps.length > 0)
    lines.push(
      `The browser lost sound ${gaps.length === 1 ? "once" : `${gaps.length} times`}, ${gaps.reduce((s, g) => s + 1000 * g.seconds, 0).toFixed(0)} ms in all, first at ${gaps[0]?.at_s.toFixed(1)} s.`,
    );
  return lines;
}

/** ": string 3 +2.0, string 5 −1.4 cents", for the strings that have one. */
function offsets(cents: readonly (number | null)[]): string {
  const known = cents.flatMap((value, i) => (value === null ? [] : [`${i + 1} ${signed(value)}`]));
  return known.length ? `: strings ${known.join(", ")} cents.` : ".";
}
