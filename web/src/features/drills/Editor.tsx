import { useQuery } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { DrillContent, DrillDetail } from "~/api/client";
import { drillQuery } from "~/api/queries";
import { useDrillSound } from "~/lib/useDrillSound";
import { Button } from "~/ui/Button";
import { Dialog } from "~/ui/Dialog";
import { Field } from "~/ui/form/Field";
import { Failed, Loading } from "~/ui/states";
import { DrillSettings } from "./DrillSettings";
import { EditSheet } from "./EditSheet";
import { EventPanel } from "./EventPanel";
import { redone, undone } from "./edit.math";
import {
  EDIT_KEYS,
  type EditState,
  edit,
  moveTo,
  opened,
  type Press,
  press,
  stepWords,
} from "./editing.math";
import { KeptLine } from "./KeptLine";
import { Listen } from "./Listen";
import { Problems } from "./Problems";
import { midiOf } from "./pitch.math";
import { useChecked } from "./useChecked";
import { draftOf, useKeeping } from "./useKeeping";

/** A drill on its sheet, to be written note by note. */
export function Editor() {
  const { id = "" } = useParams();
  const drill = useQuery({ ...drillQuery(Number(id)), refetchOnWindowFocus: false });
  if (drill.isPending) return <Loading what="the sheet" />;
  if (drill.error) return <Failed error={drill.error} onRetry={() => drill.refetch()} />;
  return <Sheet key={drill.data.id} first={drill.data} />;
}

function Sheet({ first }: { first: DrillDetail }) {
  const [drill] = useState(first);
  const [restored] = useState(() => draftOf(drill));
  const [state, setState] = useState<EditState>(() => opened(restored ?? drill.content));
  const [help, setHelp] = useState(false);
  const content = state.history.now;
  const { kept, keepNow } = useKeeping(drill, content);
  const { made, wrong } = useChecked(content);
  const sound = useDrillSound();
  const navigate = useNavigate();
  const openMidi = useMemo(() => content.tuning.map(midiOf), [content.tuning]);
  const troubled = useMemo(() => new Set(made?.problems.map((p) => p.event)), [made]);

  const onPress = useCallback(
    (key: Press): boolean => {
      if (key.key === "?") {
        setHelp(true);
        return true;
      }
      const next = press(state, key, openMidi);
      if (next) setState(next);
      return next !== null;
    },
    [state, openMidi],
  );
  const onChange = useCallback(
    (make: (drill: DrillContent) => DrillContent) => setState((s) => edit(s, make)),
    [],
  );
  // The sheet comes first; the panels follow when there is time.
  const calm = useDeferredValue(content);
  const calmCell = useDeferredValue(state.cell);
  const listen = () => {
    if (sound.state !== "still") return sound.stop();
    const perBar = content.tempo?.beats_per_bar ?? 4;
    const shown = { cents: 0, vibrato_cv: 0, late_ms: 0, slur_db: 0, ring_string: null, ring_db: -20 };
    sound.play({ content, shown, bpm: null, click: true, perBar, fromBeat: state.cell.beat, loop: false });
  };
  return (
    <>
      <p className="text-sm text-ink-soft">
        <Link className="underline" to="/drills">
          Drills
        </Link>{" "}
        /{" "}
        <Link className="underline" to={`/drills/${drill.id}`} onClick={() => void keepNow()}>
          {content.title}
        </Link>{" "}
        / Write
      </p>
      <h1 className="sr-only">Write: {content.title}</h1>
      <div className="mt-1 mb-3 flex flex-wrap items-end gap-x-4 gap-y-2">
        <Field
          key={content.title}
          label="Title"
          words
          className="min-w-64 flex-1"
          defaultValue={content.title}
          maxLength={200}
          onBlur={(event) => {
            const title = event.target.value.trim();
            if (title && title !== content.title) onChange((d) => ({ ...d, title }));
          }}
        />
        <KeptLine kept={kept} onAgain={() => void keepNow()} />
        <Button
          disabled={state.history.past.length === 0}
          onClick={() => setState((s) => ({ ...s, history: undone(s.history) }))}
        >
          Undo
        </Button>
        <Button
          disabled={state.history.future.length === 0}
          onClick={() => setState((s) => ({ ...s, history: redone(s.history) }))}
        >
          Redo
        </Button>
        <Button onClick={() => setHelp(true)}>Keys ?</Button>
        <Button
          kind="strong"
          onClick={async () => {
            await keepNow();
            navigate(`/drills/${drill.id}`);
          }}
        >
          Done
        </Button>
      </div>
      {restored && (
        <p className="mb-2 border-l-4 border-rule-strong pl-3 text-sm" role="status">
          What you had written before the page was closed is here again.
        </p>
      )}
      <EditSheet
        state={state}
        troubled={troubled}
        onPress={onPress}
        onMove={(cell, extend) => setState((s) => moveTo(s, cell, extend))}
        onListen={listen}
        heardBeat={sound.state === "playing" ? sound.beat : undefined}
      />
      <div className="mt-1 flex min-h-6 flex-wrap items-baseline gap-x-5 text-sm">
        <span className="text-ink-soft">
          Step <span className="text-ink">{stepWords(state.step)}</span>
        </span>
        <span role="status" data-testid="said">
          {state.message}
        </span>
      </div>
      {wrong && (
        <p role="alert" className="mt-2 border-l-4 border-ink pl-3">
          {wrong}
        </p>
      )}
      {made && (
        <Problems
          problems={made.problems}
          onGo={(beat) => setState((s) => moveTo(s, { ...s.cell, beat }, false))}
        />
      )}
      <div className="mt-4 grid gap-x-10 gap-y-6 lg:grid-cols-2">
        <section aria-label="At the cursor">
          <h2 className="mb-2 border-b border-ink pb-1 text-lg font-semibold">At the cursor</h2>
          <EventPanel drill={calm} cell={calmCell} onChange={onChange} />
        </section>
        <section aria-label="The whole drill">
          <h2 className="mb-2 border-b border-ink pb-1 text-lg font-semibold">The whole drill</h2>
          <DrillSettings drill={calm} onChange={onChange} />
        </section>
      </div>
      <div className="mt-6 border-t border-rule pt-3">
        <Listen content={calm} sound={sound} />
      </div>
      <Dialog open={help} onOpenChange={setHelp} title="Keys of the sheet">
        <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
          {EDIT_KEYS.map(([key, what]) => (
            <div key={key} className="contents">
              <dt className="figures font-semibold">{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </>
  );
}
