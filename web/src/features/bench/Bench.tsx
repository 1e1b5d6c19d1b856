import { useQuery } from "@tanstack/react-query";
import { NavLink, useParams } from "react-router";
import { calculatorsQuery } from "~/api/queries";
import { cx } from "~/ui/cx";
import { Failed, Loading } from "~/ui/states";
import { CalculatorView } from "./CalculatorView";
import { EarCheck } from "./EarCheck";
import { Targets } from "./Targets";
import { Tones } from "./Tones";

/** The workbench: look up, calculate, listen, check the ear. Every tool has an address of its own. */
export function Bench() {
  const { tool = "targets" } = useParams();
  const calculators = useQuery(calculatorsQuery);
  if (calculators.isPending) return <Loading what="the bench" />;
  if (calculators.error) return <Failed error={calculators.error} onRetry={() => calculators.refetch()} />;
  const found = calculators.data.find((c) => c.id === tool);
  const groups = [
    { name: "Look up", tools: [{ id: "targets", title: "Bend targets" }] },
    { name: "Calculate", tools: calculators.data },
    {
      name: "Listen",
      tools: [
        { id: "sounds", title: "Tones and click" },
        { id: "ear", title: "Ear check" },
      ],
    },
  ];
  return (
    <div className="grid gap-x-10 gap-y-4 lg:grid-cols-[10rem_minmax(0,1fr)]">
      <nav aria-label="Bench" className="flex flex-wrap gap-x-5 gap-y-1 lg:flex-col">
        {groups.map((group) => (
          <div key={group.name} className="lg:mb-3">
            <p className="text-sm text-ink-soft">{group.name}</p>
            <ul className="flex flex-wrap gap-x-4 lg:flex-col">
              {group.tools.map(({ id, title }) => (
                <li key={id}>
                  <NavLink
                    to={`/bench/${id}`}
                    className={() =>
                      cx(
                        "block py-1",
                        tool === id ? "font-semibold underline underline-offset-4" : "hover:underline",
                      )
                    }
                  >
                    {title}
                  </NavLink>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </nav>
      <div className="min-w-0">
        {tool === "targets" && <Targets />}
        {tool === "sounds" && <Tones />}
        {tool === "ear" && <EarCheck />}
        {found && <CalculatorView key={found.id} calculator={found} />}
        {!found && !["targets", "sounds", "ear"].includes(tool) && <p>There is no such tool on the bench.</p>}
      </div>
    </div>
  );
}
