import { dayWords, minutesWords } from "~/lib/days";

const WIDTH = 320;
const HEIGHT = 90;
const MOST_WEEKS = 13;

/** Minutes of each week, as plain bars. */
export function WeekMinutes({ weeks }: { weeks: [string, number][] }) {
  const shown = weeks.slice(-MOST_WEEKS);
  const most = Math.max(30, ...shown.map(([, minutes]) => minutes));
  const step = WIDTH / Math.max(8, shown.length);
  return (
    <figure className="mb-6">
      <figcaption className="mb-1 text-sm text-ink-soft">
        Minutes a week, at most {minutesWords(Math.round(Math.max(...shown.map(([, m]) => m))))}
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label="Minutes of each week">
        <line x1={0} x2={WIDTH} y1={HEIGHT - 1} y2={HEIGHT - 1} stroke="var(--ink)" />
        {shown.map(([monday, minutes], i) => (
          <rect
            key={monday}
            x={i * step + 2}
            width={step - 4}
            y={HEIGHT - 1 - (HEIGHT - 6) * (minutes / most)}
            height={(HEIGHT - 6) * (minutes / most)}
            fill="var(--rule-strong)"
          >
            <title>{`week of ${dayWords(monday)}: ${minutesWords(minutes)}`}</title>
          </rect>
        ))}
      </svg>
    </figure>
  );
}
