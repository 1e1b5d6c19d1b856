/** What the sheet shows: where it opens, values, causes, table, noise. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { plugInSound, started } from "~/testing/audio";
import { STUDENT } from "~/testing/made";
import { button, measured, openSheet, press, selectedNote } from "~/testing/sheet";

beforeEach(() => {
  plugInSound();
  vi.spyOn(window, "scrollTo").mockImplementation(() => {});
});

const NOTES = measured().analysis.notes;
const bend = (repeat: number) => NOTES.find((n) => n.id === "bend" && n.repeat === repeat);
const row = (note: string) => document.querySelector<HTMLElement>(`tr[data-note="${note}"]`);
const cells = (note: string) => [...(row(note)?.querySelectorAll("td") ?? [])].map((c) => c.textContent);

describe("the sheet opens", () => {
  it("on the first bend that is not clean, with its value, uncertainty and tolerance", async () => {
    await openSheet();
    expect(selectedNote()).toBe("bend@0");
    const inspector = within(screen.getByTestId("inspector"));
    expect(inspector.getByTestId("finding").textContent).toMatch(/^31 cents flat ± 0\.\d/);
    const error = bend(0)?.bend?.error_cents as number;
    expect(inspector.getByText("Error").closest("tr")?.textContent).toContain(
      error.toFixed(1).replace("-", "−"),
    );
    expect(inspector.getByTestId("note-cause").textContent).toContain("Bends stop short");
  });

  it("with a cause that leads through its notes, one after the other and round", async () => {
    await openSheet();
    const cause = measured().analysis.causes[0];
    expect(screen.getByText(cause?.says as string)).toBeTruthy();
    const seen = [];
    for (const _ of [0, 1, 2, 3]) {
      press("1");
      seen.push(selectedNote());
    }
    expect(seen).toEqual(["bend@1", "bend@2", "bend@0", "bend@1"]);
    press("2");
    expect(selectedNote()).toBe("bend@1");
  });

  it("with a strip for each measure the drill is judged by", async () => {
    await openSheet();
    for (const strip of ["time-strip", "touch-strip", "quiet-strip"])
      expect(screen.getAllByTestId(strip).length).toBeGreaterThan(0);
    const less = measured();
    less.drill.content.measures = ["pitch", "bend"];
    document.body.replaceChildren();
    await openSheet({ now: less });
    for (const strip of ["time-strip", "touch-strip", "quiet-strip"])
      expect(screen.queryAllByTestId(strip)).toEqual([]);
    expect(screen.queryByTestId("quiet")).toBeNull();
    expect(screen.queryByTestId("rhythm")).toBeNull();
  });
});

describe("the inspector", () => {
  it("shows what is judged, and everything else when it is asked for", async () => {
    localStorage.clear();
    await openSheet();
    const inspector = within(screen.getByTestId("inspector"));
    expect(inspector.getByText("Error")).toBeTruthy();
    expect(inspector.queryByText("Reached")).toBeNull();
    fireEvent.click(button("All values"));
    expect(inspector.getByText("Reached")).toBeTruthy();
    fireEvent.click(button("Only what is judged"));
    expect(inspector.queryByText("Reached")).toBeNull();
  });

  it("has the verdict beside the value that decided it, and a change of it asks for that measure", async () => {
    await openSheet();
    fireEvent.click(screen.getByRole("button", { name: "Error: not clean. Change the verdict" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByRole("combobox", { name: "What" }).textContent).toBe("bend");
  });

  it("lets a student see the verdict and change nothing", async () => {
    await openSheet({ me: STUDENT });
    expect(screen.queryByRole("button", { name: /Change the verdict/ })).toBeNull();
    const error = within(screen.getByTestId("inspector")).getByText("Error").closest("tr");
    expect(error?.textContent).toContain("not clean");
  });
});

describe("the causes", () => {
  it("are a line each once they were read, and open again on a press", async () => {
    localStorage.clear();
    const why = measured().analysis.causes[0]?.because as string;
    const one = measured();
    one.analysis.causes = one.analysis.causes.slice(0, 1);
    const { unmount } = await openSheet({ now: structuredClone(one) });
    const shut = () => screen.getByText(`Probably: ${why}`).parentElement?.className.includes("hidden");
    expect(shut()).toBe(false);
    unmount();
    await openSheet({ now: one });
    expect(shut()).toBe(true);
    fireEvent.click(button("Show why"));
    expect(shut()).toBe(false);
  });

  it("are folded from the first where there are several, with what was found", async () => {
    localStorage.clear();
    const several = measured();
    const [first] = several.analysis.causes;
    several.analysis.causes = [
      first,
      { ...first, code: "another", says: "Another", evidence: "e", because: "b" },
    ] as never;
    await openSheet({ now: several });
    expect(screen.getByText(first?.evidence as string).className).not.toContain("hidden");
    expect(screen.getByText(`Probably: ${first?.because}`).parentElement?.className).toContain("hidden");
  });
});

describe("the table of notes", () => {
  it("has the values of the strips: error with its side, time, volume, what rings", async () => {
    await openSheet();
    const found = bend(1) as NonNullable<ReturnType<typeof bend>>;
    expect(cells("bend@1")[2]).toMatch(/cents flat/);
    expect(cells("bend@1")[3]).toContain(found.bend?.error_cents?.toFixed(1).replace("-", "−"));
    expect(cells("bend@1")[7]).toMatch(/^4: −\d+\.\d/);
    expect(cells("bend@1").at(-1)).toBe("not clean");
    expect(cells("target@1")[5]).toMatch(/^\+97\.\d/);
    expect(cells("back@0").at(-1)).toBe("clean");
  });

  it("is sorted by a column, worst first and back, and filtered to what is not clean", async () => {
    await openSheet();
    const order = () =>
      [...document.querySelectorAll("tr[data-note]")].map((r) => r.getAttribute("data-note"));
    const table = within(screen.getByTestId("notes"));
    fireEvent.click(table.getByText("Time, ms"));
    expect(order()[0]).toBe("target@1");
    fireEvent.click(table.getByText("Time, ms"));
    expect(order().at(-1)).toBe("target@1");
    fireEvent.click(table.getByText("Note"));
    expect(order()[0]).toBe("target@0");
    fireEvent.click(button("Only what is not clean"));
    const faulty = NOTES.filter((n) => n.clean !== "inside").map((n) => `${n.id}@${n.repeat}`);
    expect(order()).toEqual(faulty);
  });

  it("is copied as text that a table program reads", async () => {
    const write = vi.fn(async () => {});
    await openSheet();
    vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText: write } });
    fireEvent.click(button("Copy table"));
    const [text] = write.mock.calls[0] as unknown as [string];
    const lines = text.trim().split("\n");
    expect(lines).toHaveLength(NOTES.length + 1);
    expect(new Set(lines.map((l) => l.split("\t").length)).size).toBe(1);
    vi.unstubAllGlobals();
  });

  it("selects what is clicked", async () => {
    await openSheet();
    fireEvent.click(row("check@1") as HTMLElement);
    expect(selectedNote()).toBe("check@1");
    expect(screen.getByTestId("inspector").textContent).toContain("Fretted note, string 3, fret 9, repeat 2");
  });
});

describe("what rings", () => {
  it("is named with its string, when, how loud, and whose finger keeps it quiet; it leads to its note", async () => {
    const { user } = await openSheet();
    const quiet = within(screen.getByTestId("quiet"));
    const event = measured().analysis.noise_events[0] as { from_s: number; level_db: number };
    const [first] = quiet.getAllByRole("row").slice(1);
    expect(first?.textContent).toContain("String 4 rings");
    expect(first?.textContent).toContain(event.from_s.toFixed(2));
    expect(first?.textContent).toContain(event.level_db.toFixed(1).replace("-", "−"));
    await waitFor(() =>
      expect(quiet.getByRole<HTMLButtonElement>("button", { name: /in context$/ }).disabled).toBe(false),
    );
    await user.click(quiet.getByRole("button", { name: /in context$/ }));
    expect(started[0]?.from).toBeCloseTo(event.from_s - 0.6, 3);
    expect(selectedNote()).toBe("bend@1");
    expect(screen.getByTestId("touch-words").textContent).toContain("String 4");
  });
});
