import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, NavLink, useNavigate, useParams } from "react-router";
import { api, data, type GeneratorRead } from "~/api/client";
import { allGuitarsQuery, drillsQuery, generatedQuery, generatorsQuery } from "~/api/queries";
import { useDrillSound } from "~/lib/useDrillSound";
import { shortQuery, useQueryFields } from "~/lib/useQueryFields";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { defaultsOf, FormField } from "~/ui/form/FormField";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import { askedWords } from "./drill.math";
import { Listen } from "./Listen";
import { Problems } from "./Problems";

const ANY = "any";

/** A drill of any family: a form, its tab as one types, what cannot be played, and one key to keep it. */
export function MakeDrill() {
  const { family = "fretted_then_bend" } = useParams();
  const generators = useQuery(generatorsQuery);
  if (generators.isPending) return <Loading what="the families" />;
  if (generators.error) return <Failed error={generators.error} onRetry={() => generators.refetch()} />;
  const found = generators.data.find((g) => g.family === family);
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/drills">
          Drills
        </Link>{" "}
        / Make a drill
      </p>
      <div className="mt-1 grid gap-x-10 gap-y-4 lg:grid-cols-[13rem_minmax(0,1fr)]">
        <nav aria-label="Families">
          <ul className="flex flex-wrap gap-x-4 lg:flex-col">
            {generators.data.map((g) => (
              <li key={g.family}>
                <NavLink
                  to={`/drills/new/${g.family}`}
                  className={() =>
                    cx(
                      "block py-0.5",
                      g.family === family ? "font-semibold underline underline-offset-4" : "hover:underline",
                    )
                  }
                >
                  {g.title}
                </NavLink>
              </li>
            ))}
          </ul>
        </nav>
        {found ? <Form key={found.family} generator={found} /> : <p>There is no such family.</p>}
      </div>
    </>
  );
}

function Form({ generator }: { generator: GeneratorRead }) {
  const defaults = useMemo(() => ({ ...defaultsOf(generator.inputs), guitar: ANY }), [generator]);
  const [fields, change] = useQueryFields(defaults);
  const guitars = useQuery(allGuitarsQuery);
  const { guitar = ANY, ...values } = fields;
  const made = useQuery(generatedQuery(generator.family, values, guitar === ANY ? null : Number(guitar)));
  const sound = useDrillSound();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const keep = useMutation({
    mutationFn: () =>
      data(api.POST("/api/v1/drills/make", { body: { family: generator.family, values, guitar_id: null } })),
    onSuccess: (drill) => {
      void queries.invalidateQueries({ queryKey: drillsQuery.queryKey });
      navigate(`/drills/${drill.id}`);
    },
  });
  const error = made.error ?? keep.error;
  const broken = made.error !== null || (made.data?.problems.some((p) => p.level === "error") ?? true);
  return (
    <form
      className="min-w-0"
      data-testid="make"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <div className="mr-auto">
          <h1 className="text-2xl font-bold">{generator.title}</h1>
          <p className="max-w-prose text-ink-soft">{generator.asks}</p>
        </div>
        <Button kind="strong" type="submit" className="min-h-9" disabled={broken || keep.isPending}>
          Keep this drill
        </Button>
      </div>
      <div className="mt-4 flex flex-wrap items-center gap-2 text-sm">
        <span className="text-ink-soft">Begin with</span>
        {generator.examples.map((example, index) => (
          <Button
            key={JSON.stringify(example)}
            aria-pressed={shortQuery({ ...defaults, ...example }, defaults) === shortQuery(fields, defaults)}
            onClick={() => change({ ...defaults, ...example })}
          >
            example {index + 1}
          </Button>
        ))}
      </div>
      <div className="mt-4 grid grid-cols-2 items-end gap-x-4 gap-y-3 sm:grid-cols-4">
        {generator.inputs.map((input) => (
          <FormField
            key={input.name}
            input={input}
            value={fields[input.name] ?? ""}
            onText={(text) => change({ [input.name]: text })}
          />
        ))}
        <Select
          label="Checked for"
          value={guitar}
          onChange={(id) => change({ guitar: id })}
          choices={[
            { value: ANY, label: "any guitar" },
            ...(guitars.data ?? []).map((g) => ({ value: String(g.id), label: `${g.name}, ${g.student}` })),
          ]}
        />
      </div>
      {error && (
        <p role="alert" className="mt-5 border-l-4 border-ink bg-sheet px-4 py-3">
          {error.message}
        </p>
      )}
      {made.data && !made.error && (
        <div className="mt-6" data-testid="made">
          <h2 className="mb-2 text-lg font-semibold">{made.data.content.title}</h2>
          <DrillTab
            content={made.data.content}
            lengthBeats={made.data.length_beats}
            heardBeat={sound.state === "playing" ? sound.beat : undefined}
          />
          <p className="mt-2 text-ink-soft">{askedWords(made.data.content)}</p>
          <Problems problems={made.data.problems} />
          <div className="mt-4">
            <Listen content={made.data.content} sound={sound} />
          </div>
        </div>
      )}
    </form>
  );
}
