import type { DrillMade } from "~/api/client";

export interface ProblemsProps {
  problems: DrillMade["problems"];
  onGo?: (beat: number) => void;
}

/** What cannot be played, or is risky, each with its place. */
export function Problems({ problems, onGo }: ProblemsProps) {
  if (problems.length === 0) return null;
  return (
    <ul className="mt-2" data-testid="problems">
      {problems.map((problem) => (
        <li
          key={problem.event + problem.code + problem.text}
          data-level={problem.level}
          className={
            problem.level === "error" ? "border-l-4 border-ink pl-3" : "border-l-4 border-rule-strong pl-3"
          }
        >
          <span className="font-semibold">
            {problem.level === "error" ? "Cannot be played. " : "Take care. "}
          </span>
          {onGo ? (
            <button type="button" className="text-left underline" onClick={() => onGo(problem.beat)}>
              {problem.text}
            </button>
          ) : (
            problem.text
          )}
        </li>
      ))}
    </ul>
  );
}
