import { Keyboard } from "lucide-react";
import { Button } from "~/ui/Button";
import { type Heard, type Listening, RATES } from "./useListening";

const CHOICES: { what: Heard; label: string; key: string }[] = [
  { what: "note", label: "Play note", key: "Space" },
  { what: "tone", label: "Target tone", key: "T" },
  { what: "both", label: "Both", key: "B" },
];

export function Transport({
  listening,
  ready,
  onHelp,
}: {
  listening: Listening;
  ready: boolean;
  onHelp: () => void;
}) {
  return (
    <div>
      <div className="flex flex-wrap gap-2">
        {CHOICES.map(({ what, label, key }) => (
          <Button
            key={what}
            className="px-2"
            aria-pressed={listening.heard === what}
            aria-keyshortcuts={key}
            title={`Key: ${key}`}
            disabled={
              (what !== "tone" && (!ready || !listening.hasNote)) ||
              (what !== "note" && listening.toneHz === null)
            }
            onClick={() => listening.listen(what)}
          >
            {label}
          </Button>
        ))}
        {listening.listenToRing && (
          <Button
            className="px-2"
            aria-keyshortcuts="R"
            title="Key: R"
            disabled={!ready}
            onClick={listening.listenToRing}
          >
            Only the ring
          </Button>
        )}
        <Button kind="quiet" className="ml-auto px-1" aria-label="Keys of this sheet" onClick={onHelp}>
          <Keyboard size={16} aria-hidden />
        </Button>
      </div>
      <fieldset className="mt-2 flex items-center gap-1 text-sm">
        <legend className="sr-only">Speed</legend>
        <span className="mr-1 text-ink-soft">Speed</span>
        {RATES.map((rate) => (
          <Button
            key={rate}
            className="figures min-h-7 px-2"
            aria-pressed={listening.rate === rate}
            onClick={() => listening.setRate(rate)}
          >
            {rate * 100} %
          </Button>
        ))}
        <span className="ml-1 text-xs text-ink-soft">pitch kept</span>
      </fieldset>
      {listening.failed && (
        <p role="alert" className="mt-2 text-sm">
          This browser cannot play the recording here. Check its sound output, or open the original file.
        </p>
      )}
    </div>
  );
}
