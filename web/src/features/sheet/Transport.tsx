import { Keyboard } from "lucide-react";
import { Button } from "~/ui/Button";
import { type Heard, type Listening, RATES } from "./useListening";

interface Choice {
  what: Heard;
  label: string;
  key: string;
}

const ALWAYS: Choice[] = [
  { what: "context", label: "In context", key: "Space" },
  { what: "note", label: "Play note", key: "P" },
  { what: "tone", label: "Target tone", key: "T" },
  { what: "both", label: "Both", key: "B" },
];
const WHERE_IT_HELPS: Choice[] = [
  { what: "ring", label: "Only the ring", key: "R" },
  { what: "fixed", label: "Then in tune", key: "F" },
];

export function Transport({
  listening,
  ready,
  ranged,
  onHelp,
}: {
  listening: Listening;
  ready: boolean;
  ranged: boolean;
  onHelp: () => void;
}) {
  const { can, heard } = listening;
  const shown: Choice[] = [...ALWAYS, ...WHERE_IT_HELPS.filter(({ what }) => can[what])];
  if (can.best) shown.push({ what: "best", label: `Then repeat ${listening.best}`, key: "G" });
  return (
    <div className="print:hidden">
      <div className="flex flex-wrap gap-1.5">
        {shown.map(({ what, label, key }) => (
          <Button
            key={what}
            className="px-2"
            aria-pressed={heard === what}
            aria-keyshortcuts={key}
            title={`Key: ${key}`}
            disabled={!can[what] || (what !== "tone" && !ready)}
            onClick={() => listening.listen(what)}
          >
            {what === "context" && ranged ? "The range" : label}
          </Button>
        ))}
        <Button kind="quiet" className="ml-auto px-1" aria-label="Keys of this sheet" onClick={onHelp}>
          <Keyboard size={16} aria-hidden />
        </Button>
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-1 text-sm">
        <fieldset className="contents">
          <legend className="sr-only">Speed</legend>
          {RATES.map((rate) => (
            <Button
              key={rate}
              className="figures min-h-7 px-1.5"
              aria-pressed={listening.rate === rate}
              title="Keys: , slower . faster; the pitch is kept"
              onClick={() => listening.setRate(rate)}
            >
              {rate * 100} %
            </Button>
          ))}
        </fieldset>
        <Button
          className="min-h-7 px-1.5"
          aria-pressed={listening.loop}
          aria-keyshortcuts="L"
          title="Key: L"
          onClick={() => listening.setLoop(!listening.loop)}
        >
          Loop
        </Button>
        <Button
          className="min-h-7 px-1.5"
          aria-pressed={listening.click}
          aria-keyshortcuts="C"
          title="Key: C"
          disabled={!listening.hasBeats}
          onClick={() => listening.setClick(!listening.click)}
        >
          Click
        </Button>
      </div>
      {listening.failed && (
        <p role="alert" className="mt-2 text-sm">
          Nothing can be heard: this browser has no sound output, or cannot read the recording. Check the
          output; everything else on this sheet works without it.
        </p>
      )}
    </div>
  );
}
