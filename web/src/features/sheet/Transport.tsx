import {
  AudioLines,
  AudioWaveform,
  BellRing,
  GitCompareArrows,
  Keyboard,
  type LucideIcon,
  Play,
  Target,
  WandSparkles,
} from "lucide-react";
import { Button } from "~/ui/Button";
import { cx } from "~/ui/cx";
import { type Heard, type Listening, RATES } from "./useListening";

interface Choice {
  what: Heard;
  icon: LucideIcon;
  /** Under the icon; the name a reader hears holds it. */
  label: string;
  name: string;
  key: string;
}

const ALWAYS: Choice[] = [
  { what: "context", icon: AudioLines, label: "Context", name: "In context", key: "Space" },
  { what: "note", icon: Play, label: "Alone", name: "Play note alone", key: "P" },
  { what: "tone", icon: Target, label: "Target", name: "Target tone", key: "T" },
  { what: "both", icon: AudioWaveform, label: "Both", name: "Both: the note with its target", key: "B" },
];
const WHERE_IT_HELPS: Choice[] = [
  { what: "ring", icon: BellRing, label: "Ring", name: "Only the ring", key: "R" },
  { what: "fixed", icon: WandSparkles, label: "In tune", name: "As played, then in tune", key: "F" },
];

/** Every way to hear the note in one row, the speed in one control. */
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
  if (can.best)
    shown.push({
      what: "best",
      icon: GitCompareArrows,
      label: `Repeat ${listening.best}`,
      name: `As played, then Repeat ${listening.best}`,
      key: "G",
    });
  return (
    <div className="print:hidden">
      <div className="flex items-stretch gap-1">
        {shown.map(({ what, icon: Icon, label, name, key }) => {
          const range = what === "context" && ranged;
          return (
            <Button
              key={what}
              className="min-w-0 flex-auto flex-col gap-0.5! px-0.5! py-1.5! text-[11px]! leading-3!"
              aria-label={range ? "The range" : name}
              aria-pressed={heard === what}
              aria-keyshortcuts={key}
              title={`${range ? "The range" : name}. Key: ${key}`}
              disabled={!can[what] || (what !== "tone" && !ready)}
              onClick={() => listening.listen(what)}
            >
              <Icon size={16} aria-hidden />
              {range ? "Range" : label}
            </Button>
          );
        })}
      </div>
      {can.best && listening.bestWords && (
        <p className="mt-1 text-xs text-ink-soft" data-testid="best">
          {listening.bestWords}
        </p>
      )}
      <div className="mt-1.5 flex items-center gap-1 text-sm">
        <fieldset className="flex">
          <legend className="sr-only">Speed</legend>
          {RATES.map((rate, i) => (
            <Button
              key={rate}
              className={cx(
                "figures min-h-7! rounded-none! px-1! text-xs!",
                i > 0 && "-ml-px",
                i === 0 && "rounded-l-md!",
                i === RATES.length - 1 && "rounded-r-md!",
              )}
              aria-pressed={listening.rate === rate}
              title="Speed; the pitch is kept. Keys: , slower . faster"
              onClick={() => listening.setRate(rate)}
            >
              {rate * 100} %
            </Button>
          ))}
        </fieldset>
        <Button
          className="min-h-7! px-1.5! text-xs!"
          aria-pressed={listening.loop}
          aria-keyshortcuts="L"
          title="Key: L"
          onClick={() => listening.setLoop(!listening.loop)}
        >
          Loop
        </Button>
        <Button
          className="min-h-7! px-1.5! text-xs!"
          aria-pressed={listening.click}
          aria-keyshortcuts="C"
          title="Key: C"
          disabled={!listening.hasBeats}
          onClick={() => listening.setClick(!listening.click)}
        >
          Click
        </Button>
        <Button
          kind="quiet"
          className="ml-auto min-h-7! px-1!"
          aria-label="Keys of this sheet"
          onClick={onHelp}
        >
          <Keyboard size={16} aria-hidden />
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
