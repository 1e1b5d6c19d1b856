import { Pause, Play } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { timeWords } from "./smallPlayer.math";

/** A recording to be heard: begin, stop, and where in it. sound: an address, or what is in this browser. */
export function SmallPlayer({ sound, label }: { sound: string | Blob; label: string }) {
  const element = useRef<HTMLAudioElement>(null);
  const made = useRef<string | null>(null);
  const [on, setOn] = useState(false);
  const [at, setAt] = useState(0);
  const [seconds, setSeconds] = useState<number | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(
    () => () => {
      if (made.current) URL.revokeObjectURL(made.current);
    },
    [],
  );
  const press = () => {
    const audio = element.current;
    if (!audio) return;
    if (typeof sound !== "string" && !made.current) {
      made.current = URL.createObjectURL(sound);
      audio.src = made.current;
    }
    if (on) audio.pause();
    else void audio.play().catch(() => setFailed(true));
  };
  return (
    <span className="inline-flex items-center gap-3">
      <audio
        ref={element}
        {...(typeof sound === "string" ? { src: sound } : {})}
        preload="none"
        onPlay={() => setOn(true)}
        onPause={() => setOn(false)}
        onTimeUpdate={(event) => setAt(event.currentTarget.currentTime)}
        onDurationChange={(event) =>
          setSeconds(Number.isFinite(event.currentTarget.duration) ? event.currentTarget.duration : null)
        }
        onError={() => setFailed(true)}
      />
      <button
        type="button"
        className="inline-flex size-9 items-center justify-center rounded-md border border-rule-strong bg-sheet hover:border-ink"
        aria-label={`${on ? "Stop" : "Play"} ${label}`}
        onClick={press}
      >
        {on ? <Pause size={16} aria-hidden /> : <Play size={16} aria-hidden />}
      </button>
      <input
        type="range"
        className="h-1 w-36 accent-ink"
        min={0}
        max={seconds ?? 1}
        step={0.1}
        value={Math.min(at, seconds ?? 1)}
        disabled={seconds === null}
        aria-label={`Where in ${label}`}
        aria-valuetext={timeWords(at)}
        onChange={(event) => {
          if (element.current) element.current.currentTime = Number(event.target.value);
        }}
      />
      <span className="figures w-24 text-sm text-ink-soft" role={failed ? "alert" : undefined}>
        {failed
          ? "cannot be played"
          : seconds === null
            ? timeWords(at)
            : `${timeWords(at)} / ${timeWords(seconds)}`}
      </span>
    </span>
  );
}
