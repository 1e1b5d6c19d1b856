/** The sheet by its keys: going, choosing, listening. */
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { plugInSound, started } from "~/testing/audio";
import { button, measured, openSheet, press, selectedNote } from "~/testing/sheet";

beforeEach(() => {
  plugInSound();
  vi.spyOn(window, "scrollTo").mockImplementation(() => {});
});

const NOTES = measured().analysis.notes;
const bend = (repeat: number) => NOTES.find((n) => n.id === "bend" && n.repeat === repeat);

describe("keys of the sheet", () => {
  it("go from note to note and stop at both ends, from repeat to repeat, from fault to fault", async () => {
    await openSheet();
    press("ArrowLeft");
    expect(selectedNote()).toBe("back@0");
    press("ArrowLeft", "ArrowLeft", "ArrowLeft");
    expect(selectedNote()).toBe("target@0");
    press("ArrowDown");
    expect(selectedNote()).toBe("target@1");
    press("ArrowDown", "ArrowDown");
    expect(selectedNote()).toBe("target@2");
    press("ArrowUp");
    expect(selectedNote()).toBe("target@1");
    press("n");
    expect(selectedNote()).toBe("bend@1");
    press("Shift+n", "Shift+n");
    expect(selectedNote()).toBe("bend@0");
    for (const _ of NOTES) press("ArrowRight");
    expect(selectedNote()).toBe("check@2");
  });

  it("choose a range both ways, a whole repeat, and one note again", async () => {
    await openSheet();
    press("Shift+ArrowRight", "Shift+ArrowRight");
    expect(screen.getByTestId("chosen").textContent).toBe("3 notes chosen");
    press("Shift+ArrowLeft", "Shift+ArrowLeft", "Shift+ArrowLeft");
    expect(screen.getByTestId("chosen").textContent).toBe("2 notes chosen");
    expect(selectedNote()).toBe("back@0");
    press("e");
    expect(screen.getByTestId("chosen").textContent).toBe("4 notes chosen");
    expect(screen.getByTestId("range")).toBeTruthy();
    press("Escape");
    expect(screen.queryByTestId("chosen")).toBeNull();
  });

  it("arrange the repeats in line and stacked by each strip in turn", async () => {
    await openSheet();
    const pressed = () =>
      [...document.querySelectorAll("button[aria-pressed=true]")].map((b) => b.textContent as string);
    const seen = [];
    for (const _ of [0, 1, 2, 3, 4]) {
      press("v");
      seen.push(pressed().find((t) => /line|Stack/.test(t)));
    }
    expect(seen).toEqual(["Stack Tune", "Stack Time", "Stack Touch", "Stack Quiet", "In line"]);
  });

  it("do nothing while one types, with Alt held, or on a focused button", async () => {
    const { user } = await openSheet();
    press("k");
    await user.type(await screen.findByLabelText(/What the student should read/), "nnn");
    expect(selectedNote()).toBe("bend@0");
    press("Escape");
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    press("Alt+n");
    expect(selectedNote()).toBe("bend@0");
    press("n");
    expect(selectedNote()).toBe("target@1");
  });

  it("are listed under ?", async () => {
    await openSheet();
    press("?");
    expect((await screen.findByRole("dialog")).textContent).toContain(
      "next, previous note that is not clean",
    );
  });
});

describe("listening", () => {
  const listens = async () => {
    const opened = await openSheet();
    await waitFor(() => expect(button("Play note alone").disabled).toBe(false));
    return opened;
  };

  it("to the note is from a little before its onset to a little after its end, and again stops", async () => {
    await listens();
    press("p");
    const { onset_s, end_s } = bend(0) as { onset_s: number; end_s: number };
    expect(started[0]?.from).toBeCloseTo(onset_s - 0.06, 3);
    expect(started[0]?.seconds).toBeCloseTo(end_s - onset_s + 0.14, 3);
    expect(button("Play note alone").getAttribute("aria-pressed")).toBe("true");
    press("p");
    expect(started).toHaveLength(1);
    expect(button("Play note alone").getAttribute("aria-pressed")).toBe("false");
  });

  it("in context has what stands around it; a range is heard whole; a loop goes on", async () => {
    await listens();
    const { onset_s, end_s } = bend(0) as { onset_s: number; end_s: number };
    press(" ");
    expect(started[0]?.from).toBeCloseTo(onset_s - 0.7, 3);
    expect(started[0]?.seconds).toBeCloseTo(end_s - onset_s + 1.4, 3);
    press(" ", "Shift+ArrowLeft");
    const back = NOTES.find((n) => n.id === "back" && n.repeat === 0);
    press("l", " ");
    expect(started[1]?.from).toBeCloseTo((back?.onset_s as number) - 0.06, 1);
    expect(started[1]?.loop).toBe(true);
    expect(button("The range")).toBeTruthy();
  });

  it("is slower and faster by keys, within what there is", async () => {
    await listens();
    const speed = () => [...document.querySelectorAll("button[aria-pressed=true]")].map((b) => b.textContent);
    press(",");
    expect(speed()).toContain("75 %");
    press(",", ",", ",", ",", ",");
    expect(speed()).toContain("25 %");
    press(".", ".", ".", ".", ".", ".");
    expect(speed()).toContain("100 %");
  });

  it("to the best repeat and to the string that rings is offered where there is one", async () => {
    await listens();
    const best = [0, 1, 2].toSorted(
      (a, b) => Math.abs(bend(a)?.bend?.error_cents ?? 99) - Math.abs(bend(b)?.bend?.error_cents ?? 99),
    )[0] as number;
    expect(button(`As played, then Repeat ${best + 1}`)).toBeTruthy();
    expect(screen.getByTestId("best").textContent).toMatch(
      new RegExp(`^Repeat ${best + 1} (is the cleanest|came nearest)`),
    );
    expect(button("Only the ring", true)).toBeNull();
    press("ArrowDown");
    expect(selectedNote()).toBe("bend@1");
    press("r");
    const ring = measured().analysis.noise_events[0] as { from_s: number };
    expect(started.at(-1)?.from).toBeCloseTo(ring.from_s - 0.1, 3);
  });
});
