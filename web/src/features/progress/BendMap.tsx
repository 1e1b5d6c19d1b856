import type { BendPlace } from "~/api/week";
import { useWidth } from "~/lib/useWidth";
import { bendWords, signed } from "~/lib/words";
import { neckOf } from "./neck.math";

/** Bends by string and fret: how far off they are on average, as small hanging or standing bars. No fretboard of dots. */
export function BendMap({ places }: { places: BendPlace[] }) {
  const frets = places.map((p) => p.fret);
  const targets = [...new Set(places.map((p) => p.target_cents))].sort((a, b) => a - b);
  return (
    <section aria-label="Bends by place">
      <h2 className="border-b border-ink pb-1 text-lg font-semibold">Bends by place</h2>
      <p className="mt-1 text-sm text-ink-soft">
        Median error of the newest takes, in cents; what hangs is flat, what stands is sharp.
      </p>
      {targets.map((target) => (
        <TargetMap
          key={target}
          target={target}
          places={places.filter((p) => p.target_cents === target)}
          frets={[Math.min(...frets), Math.max(...frets)]}
        />
      ))}
    </section>
  );
}

const ROW = 46;
const NAMES_PX = 34;
const MOST_CENTS = 45;
const LEAST_FRETS = 5;

/** frets: from the lowest to the highest of all targets, so that their columns stand under each other. */
function TargetMap({
  target,
  places,
  frets,
}: {
  target: number;
  places: BendPlace[];
  frets: [number, number];
}) {
  const [ref, widthPx] = useWidth();
  const strings = [...new Set(places.map((p) => p.string))].sort((a, b) => a - b);
  const width = Math.max(320, widthPx);
  const height = strings.length * ROW;
  const neck = neckOf(frets, width - NAMES_PX - 1, LEAST_FRETS);
  const middle = (fret: number) => NAMES_PX + neck.middle(fret);
  return (
    <figure className="mt-3">
      <figcaption className="text-sm font-semibold">{bendWords(target)} bend</figcaption>
      <div ref={ref} className="overflow-x-auto" tabIndex={widthPx < 320 ? 0 : undefined}>
        <svg
          width={width}
          height={height + 20}
          role="img"
          aria-label={places
            .map((p) => `string ${p.string} fret ${p.fret}: ${signed(p.error_cents, 0)} cents`)
            .join(", ")}
        >
          {neck.wires.map((x) => (
            <line
              key={x}
              x1={NAMES_PX + x}
              x2={NAMES_PX + x}
              y1={6}
              y2={height - 2}
              stroke="var(--rule)"
              strokeWidth={1.5}
            />
          ))}
          {strings.map((string, row) => (
            <g key={string}>
              <text x={0} y={row * ROW + ROW / 2 + 4} fontSize={12} fill="var(--ink-soft)">
                {`str ${string}`}
              </text>
              <line
                x1={NAMES_PX}
                x2={width}
                y1={row * ROW + ROW / 2}
                y2={row * ROW + ROW / 2}
                stroke="var(--rule-strong)"
                strokeWidth={0.8 + 0.25 * string}
              />
            </g>
          ))}
          {neck.frets.map((fret) => (
            <text
              key={fret}
              x={middle(fret)}
              y={height + 14}
              fontSize={12}
              textAnchor="middle"
              className="figures"
              fill="var(--ink-soft)"
            >
              {fret}
            </text>
          ))}
          {places.map((p) => (
            <Place
              key={`${p.string}-${p.fret}`}
              place={p}
              x={middle(p.fret)}
              y={strings.indexOf(p.string) * ROW + ROW / 2}
            />
          ))}
        </svg>
      </div>
    </figure>
  );
}

function Place({ place: p, x, y }: { place: BendPlace; x: number; y: number }) {
  const size = ((ROW / 2 - 4) * Math.min(Math.abs(p.error_cents), MOST_CENTS)) / MOST_CENTS;
  const clear = Math.abs(p.error_cents) > p.u && Math.round(p.error_cents) !== 0;
  const colour = !clear ? "var(--ink-soft)" : p.error_cents < 0 ? "var(--under)" : "var(--over)";
  return (
    <g>
      <rect
        x={x - 16}
        width={7}
        y={p.error_cents < 0 ? y : y - size}
        height={Math.max(1.5, size)}
        fill={colour}
      />
      <text x={x - 5} y={y + (p.error_cents < 0 ? 15 : -5)} fontSize={12} className="figures" fill={colour}>
        {signed(p.error_cents, 0)}
      </text>
      <title>
        {`string ${p.string}, fret ${p.fret}: ${signed(p.error_cents, 1)} ± ${p.u.toFixed(1)} cents, ${p.count} bends in ${p.takes} takes`}
      </title>
    </g>
  );
}
