import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, data } from "~/api/client";
import { drillsQuery, scoreQuery } from "~/api/queries";
import { useDrillSound } from "~/lib/useDrillSound";
import { Button } from "~/ui/Button";
import { Failed, Loading } from "~/ui/states";
import { DrillTab } from "~/ui/tab/DrillTab";
import type { TabMark } from "~/ui/tab/TabNumber";
import { askedWords } from "./drill.math";
import { Listen } from "./Listen";
import { Problems } from "./Problems";

/** A score another program wrote: what was read of it and what could not be kept, before it becomes a drill. */
export function ImportPage() {
  const { id = "" } = useParams();
  const score = useQuery(scoreQuery(id));
  const sound = useDrillSound();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const proposed = useMemo(() => new Set(score.data?.proposed), [score.data]);
  const params = { path: { import_id: id } };
  const keep = useMutation({
    mutationFn: async (write: boolean) => {
      const drill = await data(api.POST("/api/v1/drills/imports/{import_id}/keep", { params }));
      return `/drills/${drill.id}${write ? "/write" : ""}`;
    },
    onSuccess: (address) => {
      void queries.invalidateQueries({ queryKey: drillsQuery.queryKey, exact: true });
      navigate(address);
    },
  });
  const drop = useMutation({
    mutationFn: () => api.DELETE("/api/v1/drills/imports/{import_id}", { params }),
    onSuccess: () => navigate("/drills"),
  });
  if (score.isPending) return <Loading what="the score" />;
  if (score.error) return <Failed error={score.error} onRetry={() => score.refetch()} />;
  const { file_name, state, problem, made, lost } = score.data;
  const error = keep.error ?? drop.error;
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/drills">
          Drills
        </Link>{" "}
        / Import
      </p>
      <h1 className="mb-4 text-2xl font-bold">{made?.content.title ?? file_name}</h1>
      {state === "waiting" && <Loading what={`“${file_name}”`} />}
      {state === "refused" && (
        <>
          <p role="alert" className="max-w-prose border-l-4 border-ink bg-sheet px-4 py-3">
            {problem}
          </p>
          <p className="mt-3 text-ink-soft">Nothing of “{file_name}” was kept.</p>
          <Link className="mt-3 inline-block underline" to="/drills">
            Back to the drills
          </Link>
        </>
      )}
      {made && (
        <>
          <DrillTab
            content={made.content}
            lengthBeats={made.length_beats}
            heardBeat={sound.state === "playing" ? sound.beat : undefined}
            markOf={(event): TabMark => (proposed.has(event) ? "unclear" : "none")}
          />
          <p className="mt-3 text-ink-soft">{askedWords(made.content)}</p>
          {proposed.size > 0 && (
            <p className="mt-2 max-w-prose border-l-4 border-rule-strong pl-3" data-testid="proposed">
              Strings and frets of {proposed.size === 1 ? "one place" : `${proposed.size} places`} are a
              proposal (dashed): the file does not say where on the neck they are played. Look them over.
            </p>
          )}
          {lost.length > 0 && (
            <section className="mt-3 max-w-prose" data-testid="lost">
              <h2 className="font-semibold">What could not be kept</h2>
              <ul className="list-disc pl-5">
                {lost.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            </section>
          )}
          {lost.length === 0 && <p className="mt-2 text-ink-soft">Everything in the file was kept.</p>}
          <Problems problems={made.problems} />
          <div className="my-4 flex flex-wrap gap-2">
            <Button kind="strong" onClick={() => keep.mutate(false)} disabled={keep.isPending}>
              Keep this drill
            </Button>
            <Button onClick={() => keep.mutate(true)} disabled={keep.isPending}>
              Keep and write on
            </Button>
            <Button onClick={() => drop.mutate()} disabled={drop.isPending}>
              Throw away
            </Button>
          </div>
          {error && <Failed error={error} />}
          <Listen content={made.content} sound={sound} />
        </>
      )}
    </>
  );
}
