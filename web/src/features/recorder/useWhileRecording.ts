import { useEffect, useRef, useState } from "react";

/** R begins; Space, Escape and what foot pedals send end a take. */
export function useRecorderKeys(act: () => void) {
  const newest = useRef(act);
  newest.current = act;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof Element &&
        event.target.closest("input, select, [role=dialog], [role=listbox]");
      const playing = document.querySelector('[data-testid=recorder][data-stage="playing"]') !== null;
      const keys = playing ? [" ", "Escape", "PageDown", "PageUp", "Enter", "s"] : ["r", "PageDown"];
      if (typing || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
      if (!keys.includes(event.key.length === 1 ? event.key.toLowerCase() : event.key)) return;
      event.preventDefault();
      newest.current();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}

/** Keeps the screen on while it is needed, where the browser can. */
export function useStayAwake(on: boolean) {
  useEffect(() => {
    if (!on || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    navigator.wakeLock.request("screen").then(
      (held) => {
        lock = held;
      },
      () => {},
    );
    return () => void lock?.release();
  }, [on]);
}

/** Whether the page was hidden at any time while a take was made. */
export function useHiddenMeanwhile(playing: boolean): boolean {
  const [hidden, setHidden] = useState(false);
  useEffect(() => {
    if (!playing) return;
    setHidden(document.hidden);
    const see = () => document.hidden && setHidden(true);
    document.addEventListener("visibilitychange", see);
    return () => document.removeEventListener("visibilitychange", see);
  }, [playing]);
  return hidden;
}
