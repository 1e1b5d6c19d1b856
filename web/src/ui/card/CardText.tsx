import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useAct } from "~/lib/useAct";
import { Button } from "~/ui/Button";
import { Select } from "~/ui/Select";
import { type CardSection, cardKey, writeCard } from "./cardQuery";

export interface CardTextProps {
  drillId: number;
  section: CardSection;
  /** The teacher is changing the card's text. */
  changing: boolean;
}

/** Some lines of the card; a teacher may say them differently, for this drill or for all of its family. */
export function CardText({ drillId, section, changing }: CardTextProps) {
  const [writing, setWriting] = useState(false);
  return (
    <div className="break-inside-avoid" data-section={section.name}>
      <h3 className="flex flex-wrap items-baseline gap-x-3 font-semibold">
        {section.title}
        {section.own && <span className="text-sm font-normal text-ink-soft">your studio’s words</span>}
        {changing && !writing && (
          <Button
            kind="quiet"
            className="font-normal print:hidden"
            aria-label={`Change: ${section.title}`}
            onClick={() => setWriting(true)}
          >
            Change
          </Button>
        )}
      </h3>
      {writing ? (
        <Writing drillId={drillId} section={section} onDone={() => setWriting(false)} />
      ) : (
        section.lines.map((line) => (
          <p key={line} className="mt-1 max-w-prose">
            {line}
          </p>
        ))
      )}
    </div>
  );
}

function Writing({
  drillId,
  section,
  onDone,
}: {
  drillId: number;
  section: CardSection;
  onDone: () => void;
}) {
  const [text, setText] = useState(section.lines.join("\n"));
  const [of, setOf] = useState<"drill" | "family">(section.own ?? "drill");
  const queries = useQueryClient();
  const act = useAct(
    (lines: string[]) => writeCard(drillId, section.name, of, lines),
    of === "drill" ? [cardKey(drillId)] : [["drills"]],
    (card) => {
      // The new words stand there at once, not the old ones until the card was fetched again.
      queries.setQueryData(cardKey(drillId), card);
      onDone();
    },
  );
  return (
    <form
      className="mt-1 grid max-w-prose gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        act.mutate(text.split("\n"));
      }}
    >
      <textarea
        className="min-h-32 border border-rule-strong bg-sheet p-2"
        aria-label={section.title}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Select
        label="For"
        value={of}
        onChange={(next) => setOf(next as "drill" | "family")}
        choices={[
          { value: "drill", label: "this drill" },
          { value: "family", label: "all drills of this family" },
        ]}
      />
      {act.error && <p role="alert">{act.error.message}</p>}
      <div className="flex flex-wrap gap-2">
        <Button kind="strong" type="submit" disabled={act.isPending}>
          Save
        </Button>
        {section.own && (
          <Button type="button" disabled={act.isPending} onClick={() => act.mutate([])}>
            Back to the standard text
          </Button>
        )}
        <Button kind="quiet" type="button" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
