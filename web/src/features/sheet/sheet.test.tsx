import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Mark, TakeMeasured } from "~/api/client";
import { plugInSound, started } from "~/testing/audio";
import { STUDENT } from "~/testing/made";
import { button, measured, openSheet, press, selectedNote } from "~/testing/sheet";
import { answers, sent } from "~/testing/wire";

beforeEach(() => {
  plugInSound();
  vi.spyOn(window, "scrollTo").mockImplementation(() => {});
});

const NOTES = measured().analysis.notes;
const bend = (repeat: number) => NOTES.find((n) => n.id === "bend" && n.repeat === repeat);
const row = (note: string) => document.querySelector<HTMLElement>(`tr[data-note="${note}"]`);
const cells = (note: string) => [...(row(note)?.querySelectorAll("td") ?? [])].map((c) => c.textContent);

/** The server adds the word that was said. */
function takesWords(server: { now: TakeMeasured }) {
  answers({
    "POST /api/v1/takes/{take_id}/marks": ({ body }: { body: unknown }) => {
      const mark = {
        id: server.now.marks.length + 1,
        made_at: "2026-11-26T18:00:00Z",
        made_by: "Ines",
        undone_at: null,
        undone_by: null,
        mark: body as Mark,
      };
      server.now = { ...server.now, marks: [...server.now.marks, mark] };
      return server.now;
    },
    "PUT /api/v1/takes/{take_id}/marks/{mark_id}": ({ path, body }: { path: string; body: unknown }) => {
      const id = Number(path.split("/").at(-1));
      const undone = (body as { undone: boolean }).undone ? "2026-11-26T19:00:00Z" : null;
      const marks = server.now.marks.map((m) => (m.id === id ? { ...m, undone_at: undone } : m));
      server.now = { ...server.now, marks };
      return server.now;
    },
  });
}

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

describe("what a teacher says", () => {
  it("counts at once, and is taken back and counted again by keys", async () => {
    const { server } = await openSheet();
    takesWords(server);
    press("m");
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toEqual({
      kind: "meant",
      notes: [{ id: "bend", repeat: 0, string: null }],
      text: "",
    });
    const words = await screen.findByTestId("words");
    expect(words.textContent).toContain("Intentional");
    press("Control+z");
    await waitFor(() => expect(sent()[1]).toMatchObject({ method: "PUT", body: { undone: true } }));
    await waitFor(() => expect(within(words).getByText("Count again")).toBeTruthy());
    press("Control+Shift+z");
    await waitFor(() => expect(sent()[2]).toMatchObject({ method: "PUT", body: { undone: false } }));
  });

  it("of a range names every note", async () => {
    const { server } = await openSheet();
    takesWords(server);
    press("Shift+ArrowRight", "x");
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toMatchObject({
      kind: "excluded",
      notes: [
        { id: "bend", repeat: 0 },
        { id: "check", repeat: 0 },
      ],
    });
  });

  it("that judges otherwise needs a reason and one of what was measured", async () => {
    const { user, server } = await openSheet();
    takesWords(server);
    press("j");
    const dialog = within(await screen.findByRole("dialog"));
    const judge = dialog.getByRole<HTMLButtonElement>("button", { name: "Judge so" });
    expect(judge.disabled).toBe(true);
    await user.click(dialog.getByRole("combobox", { name: "What" }));
    expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toEqual([
      "the note as a whole",
      "bend",
      "time",
      "volume",
      "length",
      "quiet",
    ]);
    await user.keyboard("{ArrowDown}{Enter}");
    await user.type(dialog.getByLabelText("Why"), "  the hall is tuned high  ");
    await user.click(judge);
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toEqual({
      kind: "verdict",
      notes: [{ id: "bend", repeat: 0, string: null }],
      verdict: "inside",
      measure: "bend",
      text: "the hall is tuned high",
    });
  });

  it("as a comment stands at the note's time; an extra sound may be meant", async () => {
    const { user, server } = await openSheet();
    takesWords(server);
    press("k");
    await user.type(await screen.findByLabelText(/What the student should read/), "listen first{Enter}");
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toMatchObject({
      kind: "comment",
      at_s: bend(0)?.onset_s,
      text: "listen first",
    });
    await waitFor(() => expect(screen.getByTestId("take-words").textContent).toContain("listen first"));
    await user.click(within(screen.getByTestId("extras")).getByRole("button", { name: /is intentional$/ }));
    await waitFor(() => expect(sent()).toHaveLength(2));
    expect(sent()[1]?.body).toEqual({
      kind: "meant",
      notes: [],
      at_s: measured().analysis.extras[0]?.onset_s,
      text: "",
    });
  });

  it("is the teacher's: a student looks, listens and comments", async () => {
    await openSheet({ me: STUDENT });
    press("m", "x", "j", "[", "]", "Enter", "Control+z");
    expect(screen.queryByRole("dialog")).toBeNull();
    expect(sent()).toEqual([]);
    expect(button("Intentional", true)).toBeNull();
    press("k");
    expect(await screen.findByRole("dialog")).toBeTruthy();
  });

  it("stays to be read where it was taken back, and another note's is not shown with this one", async () => {
    const now = measured();
    const mark = (id: number, part: object, of: object) => ({
      id,
      made_at: "2026-11-26T18:00:00Z",
      made_by: "Ines",
      undone_at: null,
      undone_by: null,
      ...part,
      mark: { kind: "meant", notes: [], text: "", at_s: null, measure: null, verdict: null, ...of } as Mark,
    });
    now.marks = [
      mark(
        1,
        { undone_at: "2026-11-26T19:00:00Z", undone_by: "Bo" },
        { kind: "excluded", notes: [{ id: "bend", repeat: 0, string: null }], text: "a cough" },
      ),
      mark(2, {}, { notes: [{ id: "check", repeat: 2, string: null }] }),
      mark(3, {}, { kind: "comment", at_s: 12.346, text: "a car" }),
      mark(4, {}, { kind: "comment", text: "warm up first" }),
    ];
    await openSheet({ now });
    const own = within(screen.getByTestId("words")).getAllByRole("listitem");
    expect(own).toHaveLength(1);
    expect(own[0]?.textContent).toContain("Excluded: a cough");
    expect(own[0]?.textContent).toContain("taken back by Bo");
    const all = within(screen.getByTestId("take-words")).getAllByRole("listitem");
    expect(all.map((r) => r.firstElementChild?.textContent)).toEqual([
      "note 3",
      "note 12",
      "the sound at 12.35 s",
      "the take",
    ]);
    fireEvent.click(button("note 12"));
    expect(selectedNote()).toBe("check@2");
  });
});

describe("another sound is the note", () => {
  const trial = (part: object) => ({
    id: "t1",
    state: "waiting",
    problem: "",
    out_of_date: false,
    before: null,
    after: null,
    comparison: null,
    ...part,
  });

  it("asks for the sound heard before or after, and nothing is confirmed until that is kept or left", async () => {
    await openSheet();
    answers({
      "POST /api/v1/takes/{take_id}/trials": trial({}),
      "GET /api/v1/takes/{take_id}/trials/{trial_id}": trial({}),
      "DELETE /api/v1/takes/{take_id}/trials/{trial_id}": null,
    });
    press("]");
    await waitFor(() => expect(sent()).toHaveLength(1));
    const check = NOTES.find((n) => n.id === "check" && n.repeat === 0);
    expect(sent()[0]?.body).toMatchObject({ pins: [{ id: "bend", repeat: 0, at_s: check?.onset_s }] });
    expect(await screen.findByTestId("trial")).toBeTruthy();
    // What asked for it may stand far below: it is brought into sight.
    expect(document.activeElement).toBe(screen.getByTestId("trial"));
    press("Enter", "y");
    expect(sent()).toHaveLength(1);
    press("Escape");
    await waitFor(() => expect(sent()[1]?.method).toBe("DELETE"));
    await waitFor(() => expect(screen.queryByTestId("trial")).toBeNull());
    press("[", "[");
    await waitFor(() => expect(sent().length).toBeGreaterThan(2));
    const back = NOTES.find((n) => n.id === "back" && n.repeat === 0);
    expect(sent()[2]?.body).toMatchObject({ pins: [{ id: "bend", repeat: 0, at_s: back?.onset_s }] });
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
