import type { DrillContent } from "~/api/client";
import { Tick } from "~/ui/form/Tick";
import type { Card } from "./cardQuery";
import { Neck } from "./Neck";

export interface ShapesProps {
  card: Card;
  content: DrillContent;
  leftHanded: boolean;
  onHand: (leftHanded: boolean) => void;
}

const SCHOOL: Record<string, string> = {
  fretting_hand: "Where both hands could, the fretting hand does it.",
  picking_hand: "Where both hands could, the picking hand does it.",
};

/** Who keeps the strings quiet: in words over the whole drill, then drawn for every shape of the hand. */
export function Shapes({ card, content, leftHanded, onHand }: ShapesProps) {
  const school = SCHOOL[content.school?.damping ?? "both"];
  return (
    <div data-testid="shapes">
      <h3 className="font-semibold">Who keeps the strings quiet</h3>
      <ul>
        {card.quiet_words.map((line) => (
          <li key={line} className="mt-1">
            {line}
          </li>
        ))}
      </ul>
      {school && <p className="mt-1 text-ink-soft">{school}</p>}
      {card.moves.length > 0 && (
        <p className="mt-1 text-ink-soft">
          {card.moves.length === 1
            ? "A damping part moves at one place: practise that slowly."
            : `A damping part moves at ${card.moves.length} places: practise those slowly.`}
        </p>
      )}
      <div className="mt-2 grid gap-x-6 gap-y-4 sm:grid-cols-2">
        {card.shapes.map(({ posture, events, place }) => (
          <figure key={posture.event} className="break-inside-avoid">
            <Neck posture={posture} strings={card.strings} leftHanded={leftHanded} />
            <figcaption className="text-sm">
              <span className="text-ink-soft">
                {place}
                {events.length > 1 && `, and ${events.length - 1} more like it`}
              </span>
              <details className="print:hidden">
                <summary className="cursor-pointer">In words</summary>
                {posture.says.map((line) => (
                  <p key={line}>{line}</p>
                ))}
              </details>
            </figcaption>
          </figure>
        ))}
      </div>
      {card.more_shapes > 0 && (
        <p className="mt-1 text-sm text-ink-soft">
          {card.more_shapes} rarer {card.more_shapes === 1 ? "shape is" : "shapes are"} not drawn.
        </p>
      )}
      <p className="mt-1 text-sm text-ink-soft">
        Black: holds a note. Hatched: lies on strings, without pressing. Dashed: an idle finger. Wedge: a
        fingertip that leans on the next string. Bold numbers: strings that sound.
      </p>
      <Tick
        className="mt-1 min-h-9 print:hidden"
        label="Draw for the left hand"
        checked={leftHanded}
        onChange={onHand}
      />
    </div>
  );
}
