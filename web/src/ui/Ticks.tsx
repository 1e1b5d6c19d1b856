import { Marks } from "./strips/Marks";
import { dot, lineFrom, type Mark } from "./strips/marks.math";

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
      <Marks marks={[...ticks].map((sign, index) => tick(sign, index * STEP + STEP / 2))} />
    </svg>
  );
}

function tick(sign: string, x: number): Mark {
  const upright = (from: number, to: number, colour: string): Mark => ({
    d: lineFrom(x, from, x, to),
    stroke: colour,
    width: 3,
  });
  if (sign === "-") return upright(MIDDLE, HEIGHT - 1, "var(--under)");
  if (sign === "+") return upright(1, MIDDLE, "var(--over)");
  if (sign === "x")
    return { d: `M${x - 2.5} ${MIDDLE - 5}l5 10m0-10l-5 10`, stroke: "var(--ink)", width: 1.4 };
  if (sign === "r") return { d: `M${x - 3} ${MIDDLE - 2.5}h6m-6 5h6`, stroke: "var(--ring)", width: 2 };
  if (sign === "?") return { ...upright(5, HEIGHT - 5, "var(--unclear)"), dash: "1.5 1.5" };
  if (sign === "_") return { d: dot(x, MIDDLE, 1), fill: "var(--ink-soft)" };
  if (sign === "0") return { d: dot(x, MIDDLE, 2.4), fill: "var(--paper)", stroke: "var(--ink)" };
  return upright(MIDDLE - 2, MIDDLE + 2, "var(--ink)");
}
