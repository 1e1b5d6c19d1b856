import { render } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { heardNote, type NotePart, ONE_A_SECOND } from "~/testing/notes";
import { Labels, Marks } from "./Marks";
import { box, dot, lineFrom } from "./marks.math";
import { TimeStrip, yOfMs } from "./TimeStrip";
import { TouchStrip, yOfDb } from "./TouchStrip";

describe("marks", () => {
  it("that look alike are one path, what came first undermost", () => {
    const ink = { stroke: "ink", width: 1 };
    const { container } = render(
      <svg>
        <title>marks</title>
        <Marks
          marks={[
            { d: box(0, 0, 4, 2), fill: "band" },
            { d: lineFrom(1, 2, 1, 8), ...ink },
            { d: box(8, 0, 4, 2), fill: "band" },
            { d: lineFrom(2, 2, 2.126, 8), ...ink },
            { d: lineFrom(3, 2, 3, 8), ...ink, dash: "2 2" },
            { d: "", stroke: "nothing" },
          ]}
        />
      </svg>,
    );
    const paths = [...container.querySelectorAll("path")].map((p) => [
      p.getAttribute("d"),
      p.getAttribute("fill"),
      p.getAttribute("stroke-dasharray"),
    ]);
    expect(paths).toEqual([
      ["M0 0h4v2h-4zM8 0h4v2h-4z", "band", null],
      ["M1 2L1 8M2 2L2.13 8", "none", null],
      ["M3 2L3 8", "none", "2 2"],
    ]);
  });

  it("of a dot close round its middle", () => {
    expect(dot(10, 5, 3)).toBe("M7 5a3 3 0 1 0 6 0a3 3 0 1 0 -6 0z");
  });

  it("have their figures in their colours", () => {
    const { container } = render(
      <svg>
        <title>figures</title>
        <Labels
          labels={[
            { x: 1, y: 2, text: "−7", colour: "under" },
            { x: 3, y: 4, text: "+9", colour: "over", middle: true },
          ]}
        />
      </svg>,
    );
    expect(
      [...container.querySelectorAll("text")].map((t) => [
        t.textContent,
        t.getAttribute("fill"),
        t.getAttribute("text-anchor"),
      ]),
    ).toEqual([
      ["−7", "under", null],
      ["+9", "over", "middle"],
    ]);
  });
});

const looks = (container: HTMLElement, colour: string) =>
  [...container.querySelectorAll("path")].filter((p) =>
    [p.getAttribute("stroke"), p.getAttribute("fill")].includes(colour),
  );
const ends = (path: Element | undefined) =>
  [...(path?.getAttribute("d") ?? "").matchAll(/L\S+ (\S+?)(?=M|$)/g)].map((found) => Number(found[1]));
const figures = (container: HTMLElement) =>
  [...container.querySelectorAll("text")].map((t) => `${t.textContent} ${t.getAttribute("fill")}`);

describe("a strip of notes", () => {
  const timed = (place: number, error_ms: number, verdict: string) =>
    heardNote(place, 0, {
      timing: { grid_s: place, error_ms, limit_ms: 15, verdict, kind: "onset" },
    } as unknown as NotePart);
  const loud = (place: number, level_db: number, verdict: string) =>
    heardNote(place, 0, {
      level: { level_db, deviation_db: level_db, verdict, way: "picked", dies: false },
      length: null,
    } as unknown as NotePart);

  it("of time hangs early ones under the line and sets late ones on it, figures beside those outside", () => {
    const { container } = render(
      <TimeStrip
        axis={ONE_A_SECOND}
        lines={[]}
        extras={[]}
        notes={[
          timed(0, 6, "inside"),
          timed(1, -32, "outside"),
          timed(2, 28, "outside"),
          timed(3, -5, "inside"),
        ]}
      />,
    );
    expect(ends(looks(container, "var(--ink)")[0])).toEqual([yOfMs(6), yOfMs(-5)].map((y) => +y.toFixed(2)));
    expect(ends(looks(container, "var(--under)")[0])).toEqual([+yOfMs(-32).toFixed(2)]);
    expect(ends(looks(container, "var(--over)")[0])).toEqual([+yOfMs(28).toFixed(2)]);
    expect(yOfMs(28)).toBeLessThan(yOfMs(-32));
    expect(figures(container)).toEqual(["−32 var(--under)", "+28 var(--over)"]);
  });

  it("of loudness shows how loud each is, and how far those outside are off", () => {
    const { container } = render(
      <TouchStrip
        axis={ONE_A_SECOND}
        lines={[]}
        notes={[loud(0, 1, "inside"), loud(1, -7, "outside"), loud(2, 5, "outside"), loud(3, 0, "unclear")]}
      />,
    );
    expect(ends(looks(container, "var(--ink)")[0])).toEqual([yOfDb(1), yOfDb(0)]);
    expect(figures(container)).toEqual(["−7 var(--under)", "+5 var(--over)"]);
    // What cannot be told has a broken rim.
    expect(
      looks(container, "var(--ink)").filter((p) => p.getAttribute("stroke-dasharray") !== null),
    ).toHaveLength(1);
  });

  it("has no more elements of many notes than of a few", () => {
    const drawn = (count: number) => {
      const notes = Array.from({ length: count }, (_, i) => timed(i, (i % 3) - 1, "inside"));
      const { container, unmount } = render(
        <TimeStrip axis={ONE_A_SECOND} lines={[]} extras={[]} notes={notes} />,
      );
      const elements = container.querySelectorAll("*").length;
      unmount();
      return elements;
    };
    expect(drawn(60)).toBe(drawn(3));
  });
});
