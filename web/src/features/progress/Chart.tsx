import { useNavigate } from "react-router";
import type { Series, SetUpChange } from "~/api/week";
import { useWidth } from "~/lib/useWidth";
import { day } from "~/lib/words";
import { coreChanges, type Frame, layout, numberWords, type Placed } from "./chart.math";

const HEIGHT = 168;
const COLOURS: Record<Placed["side"], string> = {
  under: "var(--under)",
  over: "var(--over)",
  inside: "var(--ink)",
  none: "var(--ink)",
};

/** One measure from take to take, against its tolerance; every point leads to its take. */
export function Chart({ series, setUps, zone }: { series: Series; setUps: SetUpChange[]; zone: string }) {
  const [ref, width] = useWidth();
  const navigate = useNavigate();
  const frame: Frame = { widthPx: Math.max(280, width), heightPx: HEIGHT, leftPx: 46, bottomPx: 24 };
  const laid = layout(series, frame);
  const floor = HEIGHT - frame.bottomPx;
  const inside = setUps.filter((s) => {
    const x = laid.xOf(s.at);
    return x >= frame.leftPx && x <= frame.widthPx;
  });
  return (
    <figure className="border-b border-rule py-4" data-series={series.key}>
      <figcaption className="mb-1 flex flex-wrap items-baseline gap-x-4">
        <strong>{series.title}</strong>
        <span className="text-sm" data-testid="trend">
          {series.says}
        </span>
      </figcaption>
      <div ref={ref}>
        {/* biome-ignore lint/a11y/useSemanticElements: a drawing whose points are links */}
        <svg
          width={frame.widthPx}
          height={HEIGHT}
          role="group"
          aria-label={`${series.title}: ${series.points.map((p) => numberWords(p.value, series.unit)).join(", ")}`}
        >
          {laid.band && (
            <rect
              x={frame.leftPx}
              width={frame.widthPx - frame.leftPx}
              y={laid.band[0]}
              height={Math.max(0, Math.min(floor, laid.band[1]) - laid.band[0])}
              fill="var(--corridor)"
            />
          )}
          {laid.ticks.map((tick) => (
            <g key={tick.value}>
              <line x1={frame.leftPx} x2={frame.widthPx} y1={tick.yPx} y2={tick.yPx} stroke="var(--rule)" />
              <text
                x={frame.leftPx - 6}
                y={tick.yPx + 4}
                textAnchor="end"
                fontSize={12}
                className="figures"
                fill="var(--ink-soft)"
              >
                {numberWords(tick.value, "").replace(/\.?0+$/, "") || "0"}
              </text>
            </g>
          ))}
          {coreChanges(laid).map((change) => (
            <g key={change.xPx}>
              <line
                x1={change.xPx}
                x2={change.xPx}
                y1={4}
                y2={floor}
                stroke="var(--rule-strong)"
                strokeDasharray="2 4"
              />
              <text x={change.xPx + 4} y={14} fontSize={11} fill="var(--ink-soft)">
                measured by {change.core} from here
              </text>
            </g>
          ))}
          {inside.map((s) => (
            <path
              key={s.take_id}
              d={`M${laid.xOf(s.at)} ${floor} l-5 7 h10 z`}
              fill="var(--ink-soft)"
              data-testid="set-up-change"
            >
              <title>{`Set-up of ${s.guitar}, ${day(s.at, zone)}`}</title>
            </path>
          ))}
          {laid.points.map((point) => (
            // biome-ignore lint/a11y/useSemanticElements: a point of a drawing
            <g
              key={point.takeId}
              role="link"
              tabIndex={0}
              aria-label={`${numberWords(point.value, series.unit)}, open the take`}
              className="cursor-pointer"
              onClick={() => navigate(`/takes/${point.takeId}`)}
              onKeyDown={(event) => event.key === "Enter" && navigate(`/takes/${point.takeId}`)}
            >
              {point.bar && (
                <line
                  x1={point.xPx}
                  x2={point.xPx}
                  y1={point.bar[0]}
                  y2={point.bar[1]}
                  stroke={COLOURS[point.side]}
                  strokeWidth={1.5}
                />
              )}
              <rect x={point.xPx - 9} y={point.yPx - 9} width={18} height={18} fill="transparent" />
              <rect
                x={point.xPx - 3.5}
                y={point.yPx - 3.5}
                width={7}
                height={7}
                fill={point.side === "under" || point.side === "over" ? COLOURS[point.side] : "var(--paper)"}
                stroke={COLOURS[point.side]}
                strokeWidth={1.5}
              />
              <title>
                {`${numberWords(point.value, series.unit)}${point.u === null ? "" : ` ± ${numberWords(point.u, series.unit)}`}`}
              </title>
            </g>
          ))}
          {laid.days.map((at, i) => (
            <text
              key={at.iso}
              x={at.xPx}
              y={HEIGHT - 4}
              fontSize={12}
              textAnchor={i === 0 ? "start" : "end"}
              fill="var(--ink-soft)"
            >
              {day(at.iso, zone)}
            </text>
          ))}
        </svg>
      </div>
    </figure>
  );
}
