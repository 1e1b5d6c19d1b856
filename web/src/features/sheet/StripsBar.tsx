import { Minus, Plus } from "lucide-react";
import type { ReactNode } from "react";
import { Button } from "~/ui/Button";
import { STRIP_NAMES } from "./StripNames";
import { useSheet } from "./sheetContext";

/** How close, in line or stacked, and what the marks mean. */
export function StripsBar() {
  const { view, arrangement, arrange, several, lanes } = useSheet();
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1 print:hidden">
      {arrangement === "line" && (
        <>
          <Small label="Zoom out" keys="-" disabled={view.isWhole} onClick={view.zoomOut}>
            <Minus size={14} aria-hidden />
          </Small>
          <Small label="Zoom in" keys="+" onClick={view.zoomIn}>
            <Plus size={14} aria-hidden />
          </Small>
          <Small label="The whole take" keys="0" disabled={view.isWhole} onClick={view.showWhole}>
            Whole
          </Small>
        </>
      )}
      {several && (
        <>
          <Small
            label="Repeats in line"
            keys="V"
            pressed={arrangement === "line"}
            onClick={() => arrange("line")}
          >
            In line
          </Small>
          {lanes.map((lane) => (
            <Small
              key={lane}
              label={`Stack ${STRIP_NAMES[lane]}, repeat under repeat`}
              keys="V"
              pressed={arrangement === lane}
              onClick={() => arrange(lane)}
            >
              Stack {STRIP_NAMES[lane]}
            </Small>
          ))}
        </>
      )}
      <span className="ml-2 text-xs text-ink-soft">
        band: inside the tolerance; under the line flat, early, soft; over it sharp, late, loud; hatched:
        cannot tell{lanes.includes("touch") ? "; hollow: slurred or tapped" : ""}
        {lanes.includes("quiet") ? "; Quiet: a stroke where a string rings, the heavier the louder" : ""}
      </span>
    </div>
  );
}

function Small({
  label,
  keys,
  pressed,
  disabled,
  onClick,
  children,
}: {
  label: string;
  keys: string;
  pressed?: boolean;
  disabled?: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Button
      kind={pressed === undefined ? "quiet" : "plain"}
      className="min-h-7 px-2"
      aria-label={label}
      aria-keyshortcuts={keys}
      aria-pressed={pressed}
      title={`Key: ${keys}`}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </Button>
  );
}
