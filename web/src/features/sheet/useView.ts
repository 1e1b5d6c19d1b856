import { type RefCallback, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { type Axis, makeAxis, secondsAt, stretchOf, wholeTake, xOf, zoomed } from "~/lib/axis.math";
import { useWidth } from "~/lib/useWidth";

const START_PX_PER_S = 56;
/** Drawn in pieces so wide: scrolling inside one draws nothing anew. */
const PIECE_PX = 600;
const MARGIN_PX = 30;
const STEP = 1.45;

export interface View {
  /** Of the box that scrolls. */
  attach: RefCallback<HTMLDivElement>;
  /** The whole take. */
  axis: Axis;
  /** What is drawn of it: the window and a piece to both sides. */
  stretch: Axis;
  onScroll: () => void;
  /** Called with the share of the take that is seen, whenever that changes; not by rendering. */
  watch: (seen: (from: number, to: number) => void) => () => void;
  zoomIn: () => void;
  zoomOut: () => void;
  showWhole: () => void;
  /** Make a span of seconds fill the window. */
  showSpan: (fromS: number, toS: number) => void;
  /** Bring a moment into the middle. */
  centre: (seconds: number) => void;
  /** Scroll only if a span is not in sight. */
  reveal: (fromS: number, toS: number) => void;
  isWhole: boolean;
}

/** What of a take is seen: how close, and from where. */
export function useView(durationS: number, grid: { bpm: number | null; first_beat_s: number | null }): View {
  const scroller = useRef<HTMLDivElement | null>(null);
  const [follow, width] = useWidth();
  const [wanted, setWanted] = useState(START_PX_PER_S);
  const [piece, setPiece] = useState(0);
  const pxPerSecond = zoomed(wanted, 1, durationS, width);
  const axis = useMemo(() => makeAxis(durationS, pxPerSecond, grid), [durationS, pxPerSecond, grid]);
  const stretch = useMemo(
    () => stretchOf(axis, Math.max(0, (piece - 1) * PIECE_PX), width + 3 * PIECE_PX),
    [axis, piece, width],
  );
  // Which moment stays where when it is drawn closer or further.
  const anchor = useRef<{ seconds: number; x: number } | null>(null);
  const watchers = useRef(new Set<(from: number, to: number) => void>());

  const tell = useCallback(() => {
    const box = scroller.current;
    if (!box) return;
    const from = secondsAt(axis, box.scrollLeft) / durationS;
    const to = secondsAt(axis, box.scrollLeft + box.clientWidth) / durationS;
    for (const seen of watchers.current) seen(from, to);
  }, [axis, durationS]);
  const onScroll = useCallback(() => {
    const box = scroller.current;
    if (box) setPiece(Math.floor(box.scrollLeft / PIECE_PX));
    tell();
  }, [tell]);
  const watch = useCallback(
    (seen: (from: number, to: number) => void) => {
      watchers.current.add(seen);
      tell();
      return () => {
        watchers.current.delete(seen);
      };
    },
    [tell],
  );

  useLayoutEffect(() => {
    const box = scroller.current;
    const held = anchor.current;
    if (!box) return;
    if (held) box.scrollLeft = xOf(axis, held.seconds) - held.x;
    anchor.current = null;
    setPiece(Math.floor(box.scrollLeft / PIECE_PX));
    tell();
  }, [axis, tell]);

  const zoomAt = useCallback(
    (factor: number, x?: number) => {
      const box = scroller.current;
      const at = x ?? (box?.clientWidth ?? width) / 2;
      anchor.current = { seconds: secondsAt(axis, (box?.scrollLeft ?? 0) + at), x: at };
      setWanted(zoomed(axis.pxPerSecond, factor, durationS, width));
    },
    [axis, durationS, width],
  );
  const zoomNow = useRef(zoomAt);
  useEffect(() => {
    zoomNow.current = zoomAt;
  }, [zoomAt]);
  const attach = useCallback(
    (box: HTMLDivElement | null) => {
      scroller.current = box;
      follow(box);
      if (!box) return undefined;
      const onWheel = (event: WheelEvent) => {
        if (!event.ctrlKey && !event.metaKey) return;
        event.preventDefault();
        zoomNow.current(Math.exp(-event.deltaY / 300), event.clientX - box.getBoundingClientRect().left);
      };
      box.addEventListener("wheel", onWheel, { passive: false });
      return () => {
        box.removeEventListener("wheel", onWheel);
        scroller.current = null;
        follow(null);
      };
    },
    [follow],
  );

  const showWhole = useCallback(() => {
    anchor.current = { seconds: 0, x: 0 };
    setWanted(wholeTake(durationS, width));
  }, [durationS, width]);
  const showSpan = useCallback(
    (fromS: number, toS: number) => {
      const wide = Math.max(0.02, toS - fromS);
      const px = zoomed((width - 2 * MARGIN_PX) / wide, 1, durationS, width);
      anchor.current = { seconds: fromS, x: Math.max(MARGIN_PX, (width - wide * px) / 2) };
      setWanted(px);
      if (px === axis.pxPerSecond && scroller.current)
        scroller.current.scrollLeft = xOf(axis, fromS) - anchor.current.x;
    },
    [axis, durationS, width],
  );
  const centre = useCallback(
    (seconds: number) => {
      const box = scroller.current;
      if (box) box.scrollLeft = xOf(axis, seconds) - box.clientWidth / 2;
    },
    [axis],
  );
  const reveal = useCallback(
    (fromS: number, toS: number) => {
      const box = scroller.current;
      if (!box) return;
      const left = xOf(axis, fromS);
      const right = xOf(axis, toS);
      const hidden =
        left < box.scrollLeft + MARGIN_PX || right > box.scrollLeft + box.clientWidth - MARGIN_PX;
      if (hidden) box.scrollLeft = left - box.clientWidth / 3;
    },
    [axis],
  );
  return {
    attach,
    axis,
    stretch,
    onScroll,
    watch,
    zoomIn: useCallback(() => zoomAt(STEP), [zoomAt]),
    zoomOut: useCallback(() => zoomAt(1 / STEP), [zoomAt]),
    showWhole,
    showSpan,
    centre,
    reveal,
    isWhole: pxPerSecond <= wholeTake(durationS, width) * 1.001,
  };
}
