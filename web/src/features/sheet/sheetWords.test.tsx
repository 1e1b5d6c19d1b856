/** What a teacher says on the sheet, and which sound is the note. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Mark, TakeMeasured } from "~/api/client";
import { plugInSound } from "~/testing/audio";
import { STUDENT } from "~/testing/made";
import { button, measured, openSheet, press, selectedNote, sheetAnswers } from "~/testing/sheet";
import { answers, asked, sent } from "~/testing/wire";

beforeEach(() => {
  plugInSound();
  vi.spyOn(window, "scrollTo").mockImplementation(() => {});
});

const NOTES = measured().analysis.notes;
const bend = (repeat: number) => NOTES.find((n) => n.id === "bend" && n.repeat === repeat);
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

  it("stays, once kept, until the new sheet takes its place: what is opened meanwhile is not shut again", async () => {
    const { server } = await openSheet();
    const tried = trial({ state: "measured", before: {}, after: {}, comparison: { overall: [] } });
    answers({
      "POST /api/v1/takes/{take_id}/trials": tried,
      "GET /api/v1/takes/{take_id}/trials/{trial_id}": tried,
      "POST /api/v1/takes/{take_id}/trials/{trial_id}/keep": {},
    });
    press("]");
    await screen.findByTestId("trial");
    let arrive = () => {};
    const arrived = new Promise<void>((resolve) => {
      arrive = resolve;
    });
    answers({
      ...sheetAnswers(() => server.now),
      "GET /api/v1/takes/{take_id}": () => arrived.then(() => server.now.take),
    });
    press("y");
    await waitFor(() => expect(sent().some((s) => s.path.endsWith("/keep"))).toBe(true));
    await waitFor(() => expect(asked("/api/v1/takes/one").length).toBeGreaterThan(1));
    expect(screen.getByTestId("trial")).toBeTruthy();
    server.now.take = { ...server.now.take, measured_at: "2026-11-20T19:00:00Z" };
    arrive();
    await waitFor(() => expect(screen.queryByTestId("trial")).toBeNull());
    expect(await screen.findByTestId("sheet")).toBeTruthy();
  });
});
