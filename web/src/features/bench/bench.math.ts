/** The bench's fields and cells. Pure. */
import type { BenchCalculator, GuitarContent } from "~/api/client";
import { gaugeText } from "~/lib/lengths.math";
import { minus } from "~/lib/words";

/** What wound strings of a guitar are usually made of; the calculators' own names. */
const WOUND: Record<GuitarContent["kind"], string> = {
  solid: "wound steel",
  semi_hollow: "wound steel",
  steel_acoustic: "wound bronze",
  nylon: "wound nylon",
};

/** A calculator's fields that a guitar and one of its strings can fill in, as text. */
export function fieldsFrom(
  calculator: BenchCalculator,
  guitar: GuitarContent,
  string: number,
): Record<string, string> {
  const own = guitar.strings[string - 1];
  const pitch = guitar.tuning[string - 1];
  if (!own || pitch === undefined) return {};
  const last = guitar.strings.length;
  const treble = guitar.action_treble_mm;
  const bass = guitar.action_bass_mm ?? treble;
  const action =
    treble == null || bass == null ? undefined : treble + ((bass - treble) * (string - 1)) / (last - 1);
  const known: Record<string, string | undefined> = {
    gauge: gaugeText(own.gauge_mm, "inch"),
    gauge_unit: "thousandths",
    made: own.wound ? WOUND[guitar.kind] : guitar.kind === "nylon" ? "nylon" : "plain steel",
    unit_weight: String(own.unit_weight_g_per_m ?? 0),
    scale_mm: String(guitar.scale_mm),
    note: typeof pitch === "string" ? pitch : undefined,
    a4_hz: String(guitar.a4_hz),
    radius_mm: String(guitar.radius_mm ?? 0),
    action_mm: action === undefined ? undefined : String(Number(action.toFixed(2))),
    string: String(string),
    strings: String(last),
    frets: String(guitar.frets),
  };
  const names = new Set(calculator.inputs.map((input) => input.name));
  return Object.fromEntries(
    Object.entries(known).filter(
      (pair): pair is [string, string] => names.has(pair[0]) && pair[1] !== undefined,
    ),
  );
}

/** A result as text. */
export function valueText(value: number | string | null | undefined, digits: number): string {
  if (value === null || value === undefined) return "–";
  return typeof value === "string" ? value : minus(value.toFixed(digits));
}

/** A table's cell: whole numbers as they are, others with as many digits as help. */
export function cellText(value: number | string | null): string {
  if (value === null) return "–";
  if (typeof value === "string") return value;
  if (Number.isInteger(value)) return minus(String(value));
  const size = Math.abs(value);
  return minus(value.toFixed(size >= 100 ? 1 : size >= 1 ? 2 : 3));
}

/** The ranges of a calculator's fields, as one sentence; a second guitar has those of the first. */
export function rangesText(calculator: BenchCalculator): string {
  const ranges = calculator.inputs
    .filter((i) => i.low !== null && i.high !== null && !i.name.includes("_2"))
    .map((i) => `${i.label} ${minus(String(i.low))} to ${i.high}${i.unit ? ` ${i.unit}` : ""}`);
  return ranges.length ? `Fields: ${ranges.join("; ")}.` : "";
}
