import { useCallback, useEffect, useRef, useState } from "react";

/** Plays one sound from an address at a time. Owns its audio element. */
export function useSound() {
  const element = useRef<HTMLAudioElement | null>(null);
  const [playing, setPlaying] = useState<string | null>(null);
  const [failed, setFailed] = useState(false);

  const stop = useCallback(() => {
    element.current?.pause();
    element.current = null;
    setPlaying(null);
  }, []);

  const play = useCallback(
    (address: string) => {
      stop();
      setFailed(false);
      const audio = new Audio(address);
      element.current = audio;
      audio.addEventListener("ended", () => element.current === audio && setPlaying(null));
      audio.play().then(
        () => {},
        () => {
          if (element.current !== audio) return;
          setFailed(true);
          setPlaying(null);
        },
      );
      setPlaying(address);
    },
    [stop],
  );

  useEffect(() => stop, [stop]);
  return { playing, play, stop, failed };
}
