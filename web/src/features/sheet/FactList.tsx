import type { Fact } from "~/ui/take/rhythm.math";

/** What is said of a whole take, a value a line. */
export function FactList({ facts }: { facts: readonly Fact[] }) {
  return (
    <dl className="mb-3 grid max-w-3xl grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-x-8 text-sm">
      {facts.map((fact) => (
        <div key={fact.label} className="flex items-baseline gap-2 border-b border-rule py-1">
          <dt className="mr-auto text-ink-soft">
            {fact.label}
            {fact.hint && <span className="block text-xs">{fact.hint}</span>}
          </dt>
          <dd className="figures whitespace-nowrap">{fact.value}</dd>
        </div>
      ))}
    </dl>
  );
}
