import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Me } from "~/api/client";
import { Failed, Loading } from "~/ui/states";
import { cardQuery } from "./cardQuery";
import { Lines } from "./DrillCard";
import { Neck } from "./Neck";
import { useHand } from "./useHand";

const SHOWN = ["listen", "fretting", "picking", "practise"];
const MOST_DRAWN = 2;

/** The card folded away beside a drill that is about to be played. */
export function CardInShort({ drillId, me }: { drillId: number; me: Me }) {
  const [open, setOpen] = useState(false);
  return (
    <details
      className="mt-2"
      data-testid="card-in-short"
      onToggle={(event) => setOpen(event.currentTarget.open)}
    >
      <summary className="min-h-9 cursor-pointer py-1">How to practise it</summary>
      {open && <Short drillId={drillId} me={me} />}
    </details>
  );
}

function Short({ drillId, me }: { drillId: number; me: Me }) {
  const card = useQuery(cardQuery(drillId));
  const [leftHanded] = useHand(me);
  if (card.isPending) return <Loading what="the card" />;
  if (card.error) return <Failed error={card.error} onRetry={() => card.refetch()} />;
  const made = card.data;
  return (
    <div className="mt-1 grid gap-3 text-sm">
      {made.sections
        .filter((section) => SHOWN.includes(section.name))
        .map((section) => (
          <Lines key={section.name} title={section.title} lines={section.lines} />
        ))}
      {made.silent.length > 0 && (
        <Lines title="Before the first note" lines={made.silent.map((s) => s.says)} />
      )}
      <Lines title="Who keeps the strings quiet" lines={made.quiet_words} />
      <div className="grid grid-cols-1 gap-3 sm:grid-cols-2">
        {made.shapes.slice(0, MOST_DRAWN).map(({ posture }) => (
          <Neck key={posture.event} posture={posture} strings={made.strings} leftHanded={leftHanded} />
        ))}
      </div>
      <Lines title="Clean means" lines={made.clean} />
      <Link className="underline" to={`/drills/${drillId}`}>
        The whole card
      </Link>
    </div>
  );
}
