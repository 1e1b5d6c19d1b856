import { type RefCallback, useCallback, useRef, useState } from "react";

const FIRST_GUESS_PX = 900;

/** The width of an element, followed as it changes. */
export function useWidth(): [RefCallback<HTMLElement>, number] {
  const [width, setWidth] = useState(FIRST_GUESS_PX);
  const observer = useRef<ResizeObserver | null>(null);
  const frame = useCallback((element: HTMLElement | null) => {
    observer.current?.disconnect();
    observer.current = null;
    if (!element || typeof ResizeObserver === "undefined") return;
    observer.current = new ResizeObserver(() => setWidth(Math.round(element.clientWidth)));
    observer.current.observe(element);
    setWidth(Math.round(element.clientWidth) || FIRST_GUESS_PX);
  }, []);
  return [frame, width];
}
