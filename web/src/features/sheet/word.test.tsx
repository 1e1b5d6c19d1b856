import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { MarkRead, Note } from "~/api/client";
import { shown } from "~/testing/shown";
import type { SheetNote } from "~/ui/take/notes.math";
import { Causes } from "./Causes";
import { TakeOut } from "./TakeOut";
import { TakeWords } from "./TakeWords";
import { placesOf, type Word } from "./useWord";
import { WordPanel } from "./WordPanel";

function note(id: string, repeat = 0, part: Partial<Note> = {}): SheetNote {
  const made = { id, repeat, string: 3, onset_s: 1.25, pitch: { verdict: "inside" }, bend: null, ...part };
  return { key: `${id}@${repeat}/3`, place: 1 + repeat, note: made as Note, event: undefined };
}

function mark(part: Partial<MarkRead> = {}, of: Partial<MarkRead["mark"]> = {}): MarkRead {
  return {
    id: 1,
    made_at: "2026-11-26T18:00:00Z",
    made_by: "Ines",
    undone_at: null,
    undone_by: null,
    mark: { kind: "meant", notes: [{ id: "e1", repeat: 0, string: null }], text: "", ...of },
    ...part,
  };
}

function word(part: Partial<Word> = {}): Word {
  return {
    marks: [],
    say: vi.fn(),
    undo: vi.fn(),
    last: null,
    lastUndone: null,
    pending: false,
    error: null,
    ...part,
  };
}

function panel(part: Partial<Parameters<typeof WordPanel>[0]> = {}) {
  const given = {
    word: word(),
    selected: note("e1"),
    chosen: [],
    teacher: true,
    zone: "UTC",
    asking: null,
    onAsk: vi.fn(),
    ...part,
  };
  shown(<WordPanel {...given} />);
  return given;
}

describe("the teacher's word", () => {
  it("is said of the selected note, or of all that are chosen", () => {
    const one = panel();
    fireEvent.click(screen.getByRole("button", { name: "Meant" }));
    expect(one.word.say).toHaveBeenCalledWith({
      kind: "meant",
      notes: [{ id: "e1", repeat: 0, string: null }],
      text: "",
    });
  });

  it("of a range names every note", () => {
    const chosen = [note("e1"), note("e1", 1), note("e2", 1)];
    const given = panel({ chosen });
    expect(screen.getByText("Your word on 3 notes")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Does not count" }));
    expect(given.word.say).toHaveBeenCalledWith({ kind: "excluded", notes: placesOf(chosen), text: "" });
  });

  it("that judges otherwise needs a reason, and offers only what was measured", async () => {
    const user = userEvent.setup();
    const given = panel({ asking: "verdict" });
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByRole<HTMLButtonElement>("button", { name: "Judge so" }).disabled).toBe(true);
    await user.click(dialog.getByRole("combobox", { name: "What" }));
    expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toHaveLength(2);
    await user.keyboard("{ArrowDown}{Enter}");
    await user.click(dialog.getByRole("combobox", { name: "Counts as" }));
    await user.click(await screen.findByRole("option", { name: "not clean" }));
    await user.type(dialog.getByLabelText("Why"), "  the recital's hall is tuned high  ");
    await user.click(dialog.getByRole("button", { name: "Judge so" }));
    expect(given.word.say).toHaveBeenCalledWith({
      kind: "verdict",
      notes: [{ id: "e1", repeat: 0, string: null }],
      verdict: "outside",
      measure: "pitch",
      text: "the recital's hall is tuned high",
    });
    expect(given.onAsk).toHaveBeenLastCalledWith(null);
  });

  it("as a comment stands at the note's time", async () => {
    const user = userEvent.setup();
    const given = panel({ asking: "comment" });
    const dialog = within(await screen.findByRole("dialog"));
    await user.type(dialog.getByLabelText(/What the student should read/), "listen to it{Enter}");
    expect(given.word.say).toHaveBeenCalledWith({
      kind: "comment",
      notes: [{ id: "e1", repeat: 0, string: null }],
      at_s: 1.25,
      text: "listen to it",
    });
  });

  it("is the teacher's; a student may comment", () => {
    panel({ teacher: false });
    expect(screen.getAllByRole("button").map((b) => b.textContent)).toEqual(["Comment"]);
    expect(screen.getByText("About this note")).toBeTruthy();
  });

  it("taken back stays to be read, struck through, and can count again", () => {
    const undone = mark(
      { undone_at: "2026-11-26T19:00:00Z", undone_by: "Bo" },
      { kind: "excluded", text: "a cough" },
    );
    const given = panel({
      word: word({ marks: [undone, mark({ id: 2 }, { notes: [{ id: "e9", repeat: 0, string: null }] })] }),
    });
    const rows = within(screen.getByTestId("words")).getAllByRole("listitem");
    // What was said of another note stands there.
    expect(rows).toHaveLength(1);
    expect(rows[0]?.textContent).toContain("Excluded: a cough");
    expect(rows[0]?.textContent).toContain("taken back by Bo");
    fireEvent.click(screen.getByRole("button", { name: "Count again" }));
    expect(given.word.undo).toHaveBeenCalledWith(undone, false);
  });

  it("on its way cannot be said twice", () => {
    panel({ word: word({ pending: true }) });
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Meant" }).disabled).toBe(true);
  });
});

describe("what was said of a take", () => {
  it("stands in its order, each a way to its notes", () => {
    const select = vi.fn();
    const marks = [
      mark(
        {},
        {
          notes: [
            { id: "e1", repeat: 1, string: null },
            { id: "e2", repeat: 1, string: null },
          ],
        },
      ),
      mark({ id: 2 }, { kind: "comment", notes: [], at_s: 12.346, text: "a car" }),
      mark({ id: 3 }, { kind: "comment", notes: [], text: "warm up first" }),
    ];
    shown(
      <TakeWords
        word={word({ marks })}
        zone="UTC"
        teacher
        notes={[note("e1"), note("e1", 1)]}
        onSelect={select}
      />,
    );
    const rows = within(screen.getByTestId("take-words")).getAllByRole("listitem");
    expect(rows.map((r) => r.firstElementChild?.textContent)).toEqual([
      "note 2 and 1 more",
      "the sound at 12.35 s",
      "the take",
    ]);
    fireEvent.click(screen.getByRole("button", { name: "note 2 and 1 more" }));
    expect(select).toHaveBeenCalledWith("e1@1/3");
  });
});

describe("likely causes", () => {
  const cause = (code: string, places: number) => ({
    code,
    says: `Says ${code}`,
    evidence: "3 of 4",
    because: "the hand",
    tries: ["slower"],
    places: Array.from({ length: places }, (_, i) => ({ id: `e${i}`, repeat: 0, string: null })),
  });

  it("each lead to their notes and say what to try", () => {
    const show = vi.fn();
    const causes = [cause("short_bends", 3), cause("late_change", 1)];
    shown(<Causes causes={causes as never} faults={4} shown="late_change" onShow={show} />);
    expect(screen.getByRole("button", { name: "3 notes" }).getAttribute("aria-pressed")).toBe("false");
    expect(screen.getByRole("button", { name: "1 note" }).getAttribute("aria-pressed")).toBe("true");
    expect(screen.getAllByText("slower")).toHaveLength(2);
    fireEvent.click(screen.getByRole("button", { name: "3 notes" }));
    expect(show).toHaveBeenCalledWith(causes[0]);
  });

  it("are not invented: faults without a pattern are said to have none, a clean take says nothing", () => {
    const { unmount } = shown(<Causes causes={[]} faults={2} shown={null} onShow={() => {}} />);
    expect(screen.getByTestId("no-causes").textContent).toMatch(/no pattern that would name a cause/);
    unmount();
    const { container } = shown(<Causes causes={[]} faults={0} shown={null} onShow={() => {}} />);
    expect(container.textContent).toBe("");
  });
});

describe("the files of a take", () => {
  it("are downloads of open formats, the recording among them", async () => {
    const user = userEvent.setup();
    shown(<TakeOut id="one" />);
    await user.click(screen.getByTestId("take-out"));
    const items = await screen.findAllByRole("menuitem");
    await waitFor(() => expect(items).toHaveLength(7));
    expect(items.map((i) => i.getAttribute("href"))).toEqual([
      ...["notes", "analysis", "jams", "midi", "clicks", "contour"].map(
        (f) => `/api/v1/takes/one/export/${f}`,
      ),
      "/api/v1/takes/one/original",
    ]);
    expect(items.every((i) => i.hasAttribute("download"))).toBe(true);
  });
});
