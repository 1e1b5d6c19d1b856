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
import { Tick } from "~/ui/form/Tick";
import { Select } from "~/ui/Select";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import { askedWords } from "./drill.math";
import { Listen } from "./Listen";
import { groupWords } from "./library.math";
import { Members } from "./Members";
import { Problems } from "./Problems";
import { NO_SET, SetFields, variedOf } from "./SetFields";

const ANY = "any";
const ALONE = "no";

/** A drill of any figure: a form, its tab as one types, what cannot be played, and one key to keep it. */
export function MakeDrill() {
  const { family: name = "fretted_then_bend" } = useParams();
  const generators = useQuery(generatorsQuery);
  if (generators.isPending) return <Loading what="the figures" />;
  if (generators.error) return <Failed error={generators.error} onRetry={() => generators.refetch()} />;
  const found = generators.data.find((g) => g.name === name);
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/drills">
          Drills
        </Link>{" "}
        / Make a drill
      </p>
      <div className="mt-1 grid gap-x-10 gap-y-4 lg:grid-cols-[13rem_minmax(0,1fr)]">
        <Figures generators={generators.data} shown={found} />
        {found ? <Form key={found.name} generator={found} /> : <p>There is no such figure.</p>}
      </div>
    </>
  );
}

/** The figures by what they train; those of the one that is shown are open. */
function Figures({ generators, shown }: { generators: GeneratorRead[]; shown: GeneratorRead | undefined }) {
  const groups = [...new Set(generators.map((g) => g.group))];
  return (
    <nav aria-label="Figures" className="text-sm">
      {groups.map((group) => (
        <details key={group} open={group === shown?.group} className="border-b border-rule py-1">
          <summary className="cursor-pointer py-1 font-semibold">{groupWords(group)}</summary>
          <ul className="pb-2 pl-3">
            {generators
              .filter((g) => g.group === group)
              .map((g) => (
                <li key={g.name}>
                  <NavLink
                    to={`/drills/new/${g.name}`}
                    className={() =>
                      cx(
                        "block py-0.5",
                        g.name === shown?.name
                          ? "font-semibold underline underline-offset-4"
                          : "hover:underline",
                      )
                    }
                  >
                    {g.title}
                  </NavLink>
                </li>
              ))}
          </ul>
        </details>
      ))}
    </nav>
  );
}

function Form({ generator }: { generator: GeneratorRead }) {
  const defaults = useMemo(
    () => ({ ...defaultsOf(generator.inputs), guitar: ANY, partner: ALONE, ...NO_SET }),
    [generator],
  );
  const [fields, change] = useQueryFields(defaults);
  const guitars = useQuery(allGuitarsQuery);
  const values = Object.fromEntries(generator.inputs.map(({ name }) => [name, fields[name] ?? ""]));
  const varied = variedOf(fields);
  const guitarId = fields.guitar === ANY ? null : Number(fields.guitar);
  const form = { form: generator.name, values, varied, with_partner: false, guitar_id: guitarId };
  const made = useQuery(generatedQuery(form));
  const sound = useDrillSound();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const hasPartner = made.data?.has_partner === true;
  const keep = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/drills/make", {
          body: { ...form, with_partner: hasPartner && fields.partner !== ALONE },
        }),
      ),
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
        {hasPartner && (
          <Tick
            label="and the same the other way"
            className="min-h-9"
            checked={fields.partner !== ALONE}
            onChange={(on) => change({ partner: on ? "yes" : ALONE })}
          />
        )}
        <Button kind="strong" type="submit" className="min-h-9" disabled={broken || keep.isPending}>
          {varied.length > 0 ? "Keep this set" : "Keep this drill"}
        </Button>
      </div>
      <Examples generator={generator} fields={fields} defaults={defaults} onChange={change} />
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
          value={fields.guitar ?? ANY}
          onChange={(id) => change({ guitar: id })}
          choices={[
            { value: ANY, label: "any guitar" },
            ...(guitars.data ?? []).map((g) => ({ value: String(g.id), label: `${g.name}, ${g.student}` })),
          ]}
        />
      </div>
      <SetFields inputs={generator.inputs} fields={fields} onChange={change} />
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
          <Members content={made.data.content} />
          <Problems problems={made.data.problems} />
          <div className="mt-4">
            <Listen content={made.data.content} sound={sound} />
          </div>
        </div>
      )}
    </form>
  );
}

interface ExamplesProps {
  generator: GeneratorRead;
  fields: Record<string, string>;
  defaults: Record<string, string>;
  onChange: (part: Record<string, string>) => void;
}

const MOST_EXAMPLES = 9;

function Examples({ generator, fields, defaults, onChange }: ExamplesProps) {
  return (
    <div className="mt-4 flex flex-wrap items-center gap-2 text-sm">
      <span className="text-ink-soft">Begin with example</span>
      {generator.examples.slice(0, MOST_EXAMPLES).map((example, index) => (
        <Button
          key={JSON.stringify(example)}
          aria-label={`example ${index + 1}`}
          aria-pressed={shortQuery({ ...defaults, ...example }, defaults) === shortQuery(fields, defaults)}
          onClick={() => onChange({ ...defaults, ...example })}
        >
          {index + 1}
        </Button>
      ))}
    </div>
  );
}
