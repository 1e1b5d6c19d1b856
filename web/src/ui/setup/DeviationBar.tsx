const WIDTH = 170;
const HEIGHT = 18;
const MIDDLE = WIDTH / 2;

/** A deviation beside its zero line: flat to the left, sharp to the right; the whisker is the uncertainty. */
export function DeviationBar({ cents, u, fullScale }: { cents: number; u: number; fullScale: number }) {
  const px = (value: number) =>
    MIDDLE + (Math.max(-fullScale, Math.min(fullScale, value)) / fullScale) * (MIDDLE - 4);
  const x = px(cents);
  const clear = Math.abs(cents) - u > 5;
  const colour = !clear ? "var(--ink)" : cents < 0 ? "var(--under)" : "var(--over)";
  const beyond = Math.abs(cents) > fullScale;
  return (
    <svg width={WIDTH} height={HEIGHT} className="block" aria-hidden="true">
      <rect x={px(-5)} width={px(5) - px(-5)} y={2} height={HEIGHT - 4} fill="var(--corridor)" />
      <line x1={MIDDLE} x2={MIDDLE} y1={0} y2={HEIGHT} stroke="var(--rule-strong)" />
      <line x1={MIDDLE} x2={x} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke={colour} strokeWidth={3} />
      <line x1={px(cents - u)} x2={px(cents + u)} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke={colour} />
      <line
        x1={x}
        x2={x}
        y1={4}
        y2={HEIGHT - 4}
        stroke={colour}
        strokeWidth={2}
        strokeDasharray={beyond ? "2 2" : undefined}
      />
    </svg>
  );
}
