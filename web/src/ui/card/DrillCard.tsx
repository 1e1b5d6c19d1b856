import { useQuery } from "@tanstack/react-query";
import { Play, Square } from "lucide-react";
import { useState } from "react";
import type { DrillContent, Me } from "~/api/client";
import type { DrillSound } from "~/lib/useDrillSound";
import { Button } from "~/ui/Button";
import { Failed, Loading } from "~/ui/states";
import { beatsPerBar } from "~/ui/tab/systems.math";
import { CardText } from "./CardText";
import { type Card, cardQuery, rungQuery } from "./cardQuery";
import { Shapes } from "./Shapes";
import { useHand } from "./useHand";

export interface DrillCardProps {
  drillId: number;
  content: DrillContent;
  me: Me;
  sound: DrillSound;
}

/** How a drill is practised: what to hear and do, who keeps which string quiet, what clean means, what goes wrong. */
export function DrillCard({ drillId, content, me, sound }: DrillCardProps) {
  const card = useQuery(cardQuery(drillId));
  const [leftHanded, setLeftHanded] = useHand(me);
  const [changing, setChanging] = useState(false);
  if (card.isPending) return <Loading what="the card" />;
  if (card.error) return <Failed error={card.error} onRetry={() => card.refetch()} />;
  const made = card.data;
  return (
    <section aria-labelledby="card-title" className="mt-6 border-t border-ink pt-3" data-testid="card">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id="card-title" className="text-lg font-bold">
          Drill card
        </h2>
        {me.role === "teacher" && (
          <Button
            kind="quiet"
            className="print:hidden"
            aria-pressed={changing}
            onClick={() => setChanging(!changing)}
          >
            {changing ? "Done" : "Change the text"}
          </Button>
        )}
      </div>
      {made.problems.map((problem) => (
        <p key={problem.text} className="mt-2 border-l-4 border-ring pl-3" data-problem={problem.code}>
          {problem.text}
        </p>
      ))}
      <div className="mt-3 grid gap-x-10 gap-y-5 lg:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <div className="grid content-start gap-4">
          {made.sections.map((section) => (
            <CardText key={section.name} drillId={drillId} section={section} changing={changing} />
          ))}
          <Lines title="Clean means" lines={made.clean} />
          <Silent card={made} />
        </div>
        <div className="grid content-start gap-4">
          <Shapes card={made} content={content} leftHanded={leftHanded} onHand={setLeftHanded} />
          <Lines title="Strokes" lines={made.strokes.says} />
          <Answers card={made} drillId={drillId} />
          <Wrong card={made} content={content} sound={sound} />
          <Lines title="Take care" lines={made.cautions.map((c) => c.text)} />
        </div>
      </div>
    </section>
  );
}

/** A heading and its sentences; nothing where there are none. */
export function Lines({ title, lines }: { title: string; lines: readonly string[] }) {
  if (lines.length === 0) return null;
  return (
    <div className="break-inside-avoid">
      <h3 className="font-semibold">{title}</h3>
      <ul className="max-w-prose">
        {lines.map((line) => (
          <li key={line} className="mt-1">
            {line}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Silent({ card }: { card: Card }) {
  if (card.silent.length === 0) return null;
  return (
    <div className="break-inside-avoid" data-testid="silent">
      <h3 className="font-semibold">Before the first note</h3>
      {card.silent.map((step) => (
        <p key={step.says} className="mt-1 max-w-prose">
          {step.says} <span className="whitespace-nowrap text-ink-soft">{step.seconds} s, not judged</span>
        </p>
      ))}
    </div>
  );
}

const STRENGTH: Record<string, string> = { strong: "strongly", middling: "clearly", weak: "faintly" };

function Answers({ card, drillId }: { card: Card; drillId: number }) {
  const rung = useQuery(rungQuery(drillId)).data ?? [];
  const answering = new Set(card.answers.map((risk) => risk.string));
  if (card.answers.length === 0 && rung.length === 0) return null;
  const inTakes = (string: number) => {
    const found = rung.find((r) => r.string === string);
    return (
      found &&
      `rang in ${found.takes} of ${found.of} takes, at ${found.level_db.toFixed(0).replace("-", "−")} dB`
    );
  };
  return (
    <div className="break-inside-avoid" data-testid="answers">
      <h3 className="font-semibold">Strings that ring by themselves if nothing touches them</h3>
      <ul>
        {card.answers.map((risk) => (
          <li key={risk.string} className="mt-1">
            String {risk.string}: {STRENGTH[risk.strength]}, most of all under {risk.note}
            <span className="text-ink-soft">
              {" "}
              ({risk.events.length} {risk.events.length === 1 ? "note" : "notes"})
            </span>
            {inTakes(risk.string) && <>; {inTakes(risk.string)}</>}
          </li>
        ))}
        {rung
          .filter((r) => !answering.has(r.string))
          .map((r) => (
            <li key={r.string} className="mt-1">
              String {r.string}: {inTakes(r.string)}, though it answers nothing here: it was touched, or not
              stopped
            </li>
          ))}
      </ul>
    </div>
  );
}

function Wrong({ card, content, sound }: { card: Card; content: DrillContent; sound: DrillSound }) {
  const busy = sound.state !== "still";
  return (
    <div className="break-inside-avoid" data-testid="wrong">
      <h3 className="font-semibold">What usually goes wrong</h3>
      <ul>
        {card.wrong.map(({ says, sounds, shown }) => (
          <li key={says} className="mt-1 flex items-start gap-3">
            <span className="max-w-prose">
              {says} <span className="text-ink-soft">{sounds}</span>
            </span>
            {shown && (
              <Button
                kind="quiet"
                className="ml-auto shrink-0 print:hidden"
                aria-label={busy ? "Stop" : `Hear it: ${says}`}
                onClick={() =>
                  busy
                    ? sound.stop()
                    : sound.play({
                        content,
                        shown,
                        bpm: null,
                        click: true,
                        perBar: beatsPerBar(content),
                        fromBeat: 0,
                        loop: false,
                      })
                }
              >
                {busy ? <Square size={14} aria-hidden /> : <Play size={14} aria-hidden />}
                {busy ? "Stop" : "Hear it"}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {sound.error && <p className="text-sm text-ink-soft">{sound.error}</p>}
    </div>
  );
}
