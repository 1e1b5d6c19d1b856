import { type Axis, xOf } from "~/lib/axis.math";
import { stretchesOf } from "~/ui/take/tries.math";
import { useSheet } from "./sheetContext";

/** Tries that were broken off, stretches that are not of the drill, and the one that is being marked, over all strips. */
export function MarkedStretches({
  axis,
  marking,
}: {
  axis: Axis;
  marking: readonly [number, number] | null;
}) {
  const { measured, stretch } = useSheet();
  const now = marking ?? stretch;
  return (
    <>
      {(measured.analysis.attempts ?? []).map(({ from_s, to_s }) => (
        <Span key={from_s} axis={axis} span={[from_s, to_s]} label="broken off" />
      ))}
      {stretchesOf(measured.pins ?? []).map((span) => (
        <Span key={span[0]} axis={axis} span={span} label="not part of the drill" />
      ))}
      {now && (
        <div
          className="pointer-events-none absolute inset-y-0 border-x-2 border-focus bg-focus/10"
          style={box(axis, now)}
          data-testid="marked"
          aria-hidden="true"
        />
      )}
    </>
  );
}

function Span({ axis, span, label }: { axis: Axis; span: readonly [number, number]; label: string }) {
  return (
    <div
      className="pointer-events-none absolute inset-y-0 z-10 border-x border-dashed border-rule-strong bg-paper/60"
      style={box(axis, span)}
      data-testid="not-counted"
      aria-hidden="true"
    >
      <span className="absolute bottom-0.5 left-1 text-[11px] whitespace-nowrap text-ink-soft">{label}</span>
    </div>
  );
}

const box = (axis: Axis, [from, to]: readonly [number, number]) => ({
  left: xOf(axis, from),
  width: Math.max(2, xOf(axis, to) - xOf(axis, from)),
});
