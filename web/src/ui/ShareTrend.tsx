import { CLEAN_PERCENT, isUnder, type ShareAt, trendPoints, yOf } from "./shareTrend.math";

/** Shares of clean notes from then to now, the limit's band behind them; what is surely under it has a colour. */
export function ShareTrend({
  shares,
  width,
  height = 30,
}: {
  shares: (ShareAt | null)[];
  width: number;
  height?: number;
}) {
  const points = trendPoints(shares, width, height);
  const there = points.filter((p) => p !== null);
  return (
    <svg width={width} height={height} aria-hidden className="block shrink-0">
      <rect
        width={width}
        y={yOf(100, height)}
        height={yOf(CLEAN_PERCENT, height) - yOf(100, height)}
        fill="var(--rule)"
      />
      <polyline
        points={there.map((p) => `${p.x},${p.y}`).join(" ")}
        fill="none"
        stroke="var(--rule-strong)"
        strokeWidth={1}
      />
      {there.map((p) => (
        <g key={p.x} stroke={p.under ? "var(--under)" : "var(--ink)"}>
          <line x1={p.x} x2={p.x} y1={p.top} y2={p.bottom} strokeWidth={1} opacity={0.45} />
          <rect
            x={p.x - 2}
            y={p.y - 2}
            width={4}
            height={4}
            fill={p.under ? "var(--under)" : "var(--ink)"}
            stroke="none"
          />
        </g>
      ))}
    </svg>
  );
}

/** The figure that stands beside a trend. */
export function ShareNow({ share }: { share: ShareAt }) {
  return (
    <span className="figures" style={isUnder(share) ? { color: "var(--under)" } : undefined}>
      {share.percent.toFixed(0)}
    </span>
  );
}
