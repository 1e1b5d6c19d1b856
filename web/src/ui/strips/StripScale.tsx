/** The labelled values at the left of a strip, each at its height. */
export function StripScale({ values, y }: { values: readonly number[]; y: (value: number) => number }) {
  return (
    <div className="relative h-full">
      {values.map((value) => (
        <span key={value} className="figures absolute right-2 -translate-y-1/2" style={{ top: y(value) }}>
          {value > 0 ? `+${value}` : String(value).replace("-", "−")}
        </span>
      ))}
    </div>
  );
}
