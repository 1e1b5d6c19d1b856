import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { Me } from "~/api/client";
import { holdsWords } from "~/lib/search";
import { VALUES, type ValueHelp } from "~/lib/valueHelp";
import { Button } from "~/ui/Button";
import { Field } from "~/ui/form/Field";
import { type Chapter, foundChapters, type Piece } from "./handbook";

/** The handbook: how an evening goes, what the numbers mean, how to record well; searched as one types. */
export function HelpPage({ me }: { me: Me }) {
  const [text, setText] = useState("");
  const { hash } = useLocation();
  const chapters = foundChapters(me.role, text);
  const values = foundValues(text);
  useEffect(() => {
    const at = document.getElementById(hash.slice(1));
    at?.scrollIntoView();
    at?.focus({ preventScroll: true });
  }, [hash]);
  return (
    <div className="grid gap-x-12 gap-y-6 lg:grid-cols-[15rem_minmax(0,42rem)] print:block">
      <div className="self-start lg:sticky lg:top-4 print:hidden">
        <h1 className="mb-3 text-2xl font-bold">Handbook</h1>
        <Field label="Find in the handbook" words type="search" value={text} onText={setText} />
        <nav aria-label="Chapters" className="mt-4 flex flex-col border-t border-ink">
          {chapters.map(({ id, title }) => (
            <a key={id} href={`#${id}`} className="border-b border-rule py-1.5 hover:underline">
              {title}
            </a>
          ))}
          {values.length > 0 && (
            <a href="#values" className="border-b border-rule py-1.5 hover:underline">
              The values, one by one
            </a>
          )}
        </nav>
        <Button className="mt-4" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <div data-testid="handbook">
        {chapters.length + values.length === 0 && (
          <p className="border-y border-rule py-8 text-ink-soft">
            The handbook has nothing with “{text.trim()}”. Try another word, such as bend, click or consent.
          </p>
        )}
        {chapters.map((chapter) => (
          <ChapterText key={chapter.id} chapter={chapter} />
        ))}
        {values.length > 0 && (
          <section className="mb-8">
            <Heading id="values" title="The values, one by one" />
            {values.map(([key, value]) => (
              <div key={key} id={`value-${key}`} tabIndex={-1} className="mb-4 scroll-mt-4">
                <h3 className="font-semibold">{value.name}</h3>
                <p>
                  {value.is} {value.exact}
                </p>
              </div>
            ))}
          </section>
        )}
      </div>
    </div>
  );
}

function foundValues(text: string): [string, ValueHelp][] {
  return Object.entries(VALUES as Record<string, ValueHelp>).filter(([, value]) =>
    holdsWords(`${value.name} ${value.is} ${value.exact}`, text),
  );
}

function ChapterText({ chapter: { id, title, pieces } }: { chapter: Chapter }) {
  return (
    <section className="mb-8 break-inside-avoid">
      <Heading id={id} title={title} />
      {pieces.map((piece) => (
        <PieceText key={typeof piece === "string" ? piece : piece.list[0]} piece={piece} />
      ))}
    </section>
  );
}

function Heading({ id, title }: { id: string; title: string }) {
  return (
    <h2
      id={id}
      tabIndex={-1}
      className="mb-2 scroll-mt-4 border-b border-ink pb-1 text-lg font-semibold outline-none"
    >
      {title}
    </h2>
  );
}

function PieceText({ piece }: { piece: Piece }) {
  if (typeof piece === "string") return <p className="mb-2">{piece}</p>;
  return (
    <ul className="mb-2 list-disc pl-5">
      {piece.list.map((line) => (
        <li key={line} className="mb-1">
          {line}
        </li>
      ))}
    </ul>
  );
}
