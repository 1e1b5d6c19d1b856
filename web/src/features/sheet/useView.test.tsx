import { act, renderHook } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { secondsAt } from "~/lib/axis.math";
import { useView } from "./useView";

const TAKE_S = 60;
const WIDTH = 900;
const GRID = { bpm: 60, first_beat_s: 1 };

beforeEach(() => {
  vi.useFakeTimers();
});

/** A view of a take of a minute in a box of 900 px, and what is drawn in it. */
function looking() {
  const { result } = renderHook(() => useView(TAKE_S, GRID));
  const box = document.createElement("div");
  const drawn = document.createElement("div");
  Object.defineProperty(box, "clientWidth", { value: WIDTH });
  act(() => {
    result.current.content.current = drawn;
    result.current.attach(box);
  });
  return {
    box,
    drawn,
    view: () => result.current,
    px: () => result.current.axis.pxPerSecond,
    do: (what: (view: typeof result.current) => void) => act(() => what(result.current)),
    rest: () => act(() => vi.advanceTimersByTime(500)),
  };
}

describe("zooming by keys", () => {
  it("is seen at once, and drawn anew when the keys rest", () => {
    const it = looking();
    const before = it.px();
    it.do((view) => view.zoomIn());
    expect(it.drawn.style.transform).toBe("scaleX(1.45)");
    expect(it.px()).toBe(before);
    it.do((view) => view.zoomIn());
    it.rest();
    expect(it.px()).toBeCloseTo(before * 1.45 ** 2, 6);
    expect(it.drawn.style.transform).toBe("");
  });

  it("there and back is where it was, with nothing drawn anew", () => {
    const it = looking();
    const axis = it.view().axis;
    it.do((view) => view.zoomIn());
    it.do((view) => view.zoomOut());
    it.rest();
    expect(it.view().axis).toBe(axis);
    expect(it.drawn.style.transform).toBe("");
  });

  it("keeps the moment in the middle, also of what was scrolled while it was stretched", () => {
    const it = looking();
    it.box.scrollLeft = 1000;
    const at = (x: number) => secondsAt(it.view().axis, x);
    const middle = at(1000 + WIDTH / 2);
    it.do((view) => view.zoomIn());
    it.rest();
    expect(at(it.box.scrollLeft + WIDTH / 2)).toBeCloseTo(middle, 1);
    const before = { px: it.px(), middle: at(it.box.scrollLeft + WIDTH / 2) };
    it.do((view) => view.zoomIn());
    it.box.scrollLeft += 145;
    it.rest();
    // 145 px of what was 1.45 times as wide.
    expect(at(it.box.scrollLeft + WIDTH / 2)).toBeCloseTo(before.middle + 100 / before.px, 1);
  });

  it.each([
    ["brings a moment into the middle", 40, 450, (view: ReturnType<typeof useView>) => view.centre(40)],
    ["shows a note that is out of sight", 40, 300, (view: ReturnType<typeof useView>) => view.reveal(40, 41)],
  ])("%s that is asked for before it rests", (_what, seconds, x, ask) => {
    const it = looking();
    const before = it.px();
    it.do((view) => view.zoomIn());
    it.do(ask);
    it.rest();
    expect(it.px()).toBeCloseTo(before * 1.45, 6);
    expect(secondsAt(it.view().axis, it.box.scrollLeft + x)).toBeCloseTo(seconds, 1);
  });

  it("leaves a note where it is that is in sight as it is stretched", () => {
    const it = looking();
    it.box.scrollLeft = 1000;
    const middle = secondsAt(it.view().axis, 1000 + WIDTH / 2);
    it.do((view) => view.zoomIn());
    it.do((view) => view.reveal(middle - 0.5, middle + 0.5));
    it.rest();
    expect(secondsAt(it.view().axis, it.box.scrollLeft + WIDTH / 2)).toBeCloseTo(middle, 1);
  });

  it("draws anew at once where the stretch would be too coarse, and ends at both ends", () => {
    const it = looking();
    const before = it.px();
    for (let i = 0; i < 4; i++) it.do((view) => view.zoomIn());
    expect(it.px()).toBeCloseTo(before * 1.45 ** 4, 6);
    for (let i = 0; i < 30; i++) it.do((view) => view.zoomOut());
    it.rest();
    expect(it.view().isWhole).toBe(true);
    for (let i = 0; i < 30; i++) it.do((view) => view.zoomIn());
    it.rest();
    expect(it.px()).toBe(5000);
  });

  it.each([
    ["the whole take", (view: ReturnType<typeof useView>) => view.showWhole()],
    ["a span", (view: ReturnType<typeof useView>) => view.showSpan(10, 12)],
  ])("does not go on under %s that is asked for before it rests", (_what, ask) => {
    const straight = looking();
    straight.do(ask);
    straight.rest();
    const it = looking();
    it.do((view) => view.zoomIn());
    it.do(ask);
    it.rest();
    expect(it.px()).toBe(straight.px());
    expect(it.drawn.style.transform).toBe("");
  });
});
