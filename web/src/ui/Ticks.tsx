const WORDS: Record<string, string> = {
  ".": "clean",
  "-": "under",
  "+": "over",
  x: "wrong pitch",
  r: "a string rings",
  "?": "cannot tell",
  "0": "missed",
  _: "excluded",
};
const STEP = 7;
const HEIGHT = 22;
const MIDDLE = HEIGHT / 2;

/** A take in miniature: one mark per asked note; what is clean stays on the line, the rest leaves it. */
export function Ticks({ ticks }: { ticks: string }) {
  const counts = Object.entries(WORDS)
    .map(([sign, word]) => [word, [...ticks].filter((t) => t === sign).length] as const)
    .filter(([, count]) => count > 0)
    .map(([word, count]) => `${count} ${word}`)
    .join(", ");
  const width = Math.max(STEP, ticks.length * STEP);
  return (
    <svg
      role="img"
      aria-label={`Notes in order: ${counts || "none"}`}
      viewBox={`0 0 ${width} ${HEIGHT}`}
      width={Math.min(width, 210)}
      height={HEIGHT}
      preserveAspectRatio="none"
      className="block"
    >
      <line x1={0} x2={width} y1={MIDDLE} y2={MIDDLE} stroke="var(--rule)" />
      {[...ticks].map((sign, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the place is the mark's identity
        <Tick key={index} sign={sign} x={index * STEP + STEP / 2} />
      ))}
    </svg>
  );
}

function Tick({ sign, x }: { sign: string; x: number }) {
  const line = { x1: x, x2: x, strokeWidth: 3 };
  if (sign === "-") return <line {...line} y1={MIDDLE} y2={HEIGHT - 1} stroke="var(--under)" />;
  if (sign === "+") return <line {...line} y1={1} y2={MIDDLE} stroke="var(--over)" />;
  if (sign === "x")
    return (
      <path
        d={`M${x - 2.5} ${MIDDLE - 5}l5 10m0-10l-5 10`}
        stroke="var(--ink)"
        strokeWidth={1.4}
        fill="none"
      />
    );
  if (sign === "r")
    return <path d={`M${x - 3} ${MIDDLE - 2.5}h6m-6 5h6`} stroke="var(--ring)" strokeWidth={2} fill="none" />;
  if (sign === "?")
    return <line {...line} y1={5} y2={HEIGHT - 5} stroke="var(--unclear)" strokeDasharray="1.5 1.5" />;
  if (sign === "_") return <circle cx={x} cy={MIDDLE} r={1} fill="var(--ink-soft)" />;
  if (sign === "0") return <circle cx={x} cy={MIDDLE} r={2.4} fill="var(--paper)" stroke="var(--ink)" />;
  return <line {...line} y1={MIDDLE - 2} y2={MIDDLE + 2} stroke="var(--ink)" />;
}
