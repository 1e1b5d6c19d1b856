import {
  type RefCallback,
  type RefObject,
  useCallback,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { type Axis, makeAxis, secondsAt, wholeTake, xOf, zoomed } from "~/lib/axis.math";
import { useWidth } from "~/lib/useWidth";
import { TILE_PX } from "./Tile";

const START_PX_PER_S = 56;
/** Drawn beyond what is seen, in tiles. */
const TILES_AROUND = 1;
/** A wheel that has rested so long is done: what was stretched is drawn anew. */
const SETTLED_MS = 110;
const MOST_STRETCH = 3.5;
const MARGIN_PX = 30;
const STEP = 1.45;

export interface View {
  /** Of the box that scrolls. */
  attach: RefCallback<HTMLDivElement>;
  /** The whole take. */
  axis: Axis;
  /** Of what lies in the box; drawn wider or narrower for a moment while it is zoomed by wheel. */
  content: RefObject<HTMLDivElement | null>;
  /** The first and the last tile that are drawn. */
  tiles: readonly [number, number];
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

function unstretch(element: HTMLElement) {
  element.style.transform = "";
  element.style.willChange = "";
}

/** What of a take is seen: how close, and from where. */
export function useView(durationS: number, grid: { bpm: number | null; first_beat_s: number | null }): View {
  const scroller = useRef<HTMLDivElement | null>(null);
  const [follow, width] = useWidth();
  const [wanted, setWanted] = useState(START_PX_PER_S);
  const [tile, setTile] = useState(0);
  const pxPerSecond = zoomed(wanted, 1, durationS, width);
  // By its values: a word that is said brings a new analysis with the same grid.
  const { bpm, first_beat_s } = grid;
  const axis = useMemo(
    () => makeAxis(durationS, pxPerSecond, { bpm, first_beat_s }),
    [durationS, pxPerSecond, bpm, first_beat_s],
  );
  // Zoomed, what is seen is drawn at once, and what lies around it when nothing more urgent is to be done.
  const around = useDeferredValue(axis) === axis ? TILES_AROUND : 0;
  const tiles = useMemo(() => {
    const last = Math.ceil(axis.widthPx / TILE_PX) - 1;
    const first = Math.max(0, Math.min(tile, last) - around);
    return [first, Math.min(last, tile + Math.ceil(width / TILE_PX) + around)] as const;
  }, [axis, tile, width, around]);
  const content = useRef<HTMLDivElement | null>(null);
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
    if (box) setTile(Math.floor(box.scrollLeft / TILE_PX));
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
    if (content.current) unstretch(content.current);
    setTile(Math.floor(box.scrollLeft / TILE_PX));
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
  // While a wheel turns, what is drawn is only made wider or narrower; drawn anew it is when the wheel rests.
  const wheel = useRef({ factor: 1, x: 0, timer: 0 });
  const turn = useCallback(
    (factor: number, x: number) => {
      const now = wheel.current;
      if (now.factor === 1) now.x = x;
      const whole = zoomed(axis.pxPerSecond, now.factor * factor, durationS, width) / axis.pxPerSecond;
      now.factor = whole;
      const settle = () => {
        window.clearTimeout(now.timer);
        const by = now.factor;
        now.factor = 1;
        if (by === 1) {
          if (content.current) unstretch(content.current);
        } else zoomAt(by, now.x);
      };
      window.clearTimeout(now.timer);
      if (whole > MOST_STRETCH || whole < 1 / MOST_STRETCH) {
        settle();
        return;
      }
      const box = scroller.current;
      const at = (box?.scrollLeft ?? 0) + now.x;
      if (content.current) {
        content.current.style.willChange = "transform";
        content.current.style.transformOrigin = `${at}px 0`;
        content.current.style.transform = `scaleX(${whole})`;
      }
      now.timer = window.setTimeout(settle, SETTLED_MS);
    },
    [axis, durationS, width, zoomAt],
  );
  const turnNow = useRef(turn);
  useEffect(() => {
    turnNow.current = turn;
  }, [turn]);
  const attach = useCallback(
    (box: HTMLDivElement | null) => {
      scroller.current = box;
      follow(box);
      if (!box) return undefined;
      const onWheel = (event: WheelEvent) => {
        if (!event.ctrlKey && !event.metaKey) return;
        event.preventDefault();
        turnNow.current(Math.exp(-event.deltaY / 300), event.clientX - box.getBoundingClientRect().left);
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
    content,
    tiles,
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
