import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { DeskRow } from "~/api/client";
import { STUDENT, student, TEACHER, take } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";

/** Three of four notes clean; a longer name was played later. */
function row(id: string, part: Partial<DeskRow> = {}): DeskRow {
  const counts = { asked: 4, clean: 3, not_clean: 1, excluded: 0, extra: 0, missed: 0, unclear: 0 };
  const at = `2026-11-26T1${id.length}:00:00Z`;
  return { ...take({ id, played_at: at }), ...counts, headline: "Bends stop short", ...part };
}

const CLEAN = { clean: 4, not_clean: 0, headline: null };
const UP = {
  assignment_id: 1,
  student_id: 3,
  student: "Oda",
  drill_id: 7,
  drill: "String 3: full bend at fret 7",
  move: "up",
  says: "Up to 70 bpm: the last 3 takes at 66 bpm were clean.",
  to_words: "70 bpm",
};

function desk(rows: DeskRow[], counts: object = {}) {
  return {
    rows,
    total: rows.length,
    counts: { waiting: rows.length, judged: 0, unfinished: 0, refused: 0, ...counts },
  };
}

const base = {
  "GET /api/v1/students": [student()],
  "GET /api/v1/plans/proposals": [],
  "GET /api/v1/drills": [],
};

// The Desk keeps its filter for the evening; each test has an evening of its own.
let Desk: typeof import("./Desk").Desk;
beforeEach(async () => {
  sessionStorage.clear();
  vi.resetModules();
  ({ Desk } = await import("./Desk"));
});

const key = (pressed: string) => fireEvent.keyDown(document.body, { key: pressed });
const here = () => document.querySelector("tr[aria-current=true]")?.getAttribute("data-take");

describe("the Desk", () => {
  it("is gone through by keys, and opens a sheet", async () => {
    answers({ ...base, "GET /api/v1/takes/desk": desk([row("a"), row("bb"), row("ccc")]) });
    shown(<Desk me={TEACHER} />);
    await waitFor(() => expect(here()).toBe("a"));
    key("ArrowDown"); // onto the first
    key("ArrowDown");
    expect(here()).toBe("bb");
    key("ArrowDown");
    key("ArrowDown"); // no further
    expect(here()).toBe("ccc");
    key("ArrowUp");
    expect(here()).toBe("bb");
    key("Enter");
    expect(await screen.findByText("at /takes/bb")).toBeTruthy();
  });

  it("judges one, says so, and takes it back", async () => {
    const waiting = [row("a"), row("bb")];
    answers({
      ...base,
      "GET /api/v1/takes/desk": () => desk(waiting),
      "POST /api/v1/takes/judge": ({ body }: { body: { takes: { id: string }[]; judged: boolean } }) => {
        if (body.judged) waiting.shift();
        else waiting.unshift(row("a"));
        return { done: body.takes.map((t) => t.id), changed: [] };
      },
    });
    shown(<Desk me={TEACHER} />);
    await waitFor(() => expect(here()).toBe("a"));
    key("j");
    expect(await screen.findByText("Oda’s take is judged.")).toBeTruthy();
    await waitFor(() => expect(here()).toBe("bb"));
    key("z");
    await waitFor(() => expect(here()).toBe("a"));
    expect(sent().map((s) => s.body)).toEqual([
      { takes: [{ id: "a", word_version: 0 }], judged: true },
      { takes: [{ id: "a", word_version: 0 }], judged: false },
    ]);
  });

  it("picks the clean ones, and judges them at once; what changed meanwhile is left alone and said", async () => {
    answers({
      ...base,
      "GET /api/v1/takes/desk": desk([row("a", CLEAN), row("bb"), row("ccc", CLEAN)]),
      "POST /api/v1/takes/judge": { done: ["a"], changed: ["ccc"] },
    });
    shown(<Desk me={TEACHER} />);
    await waitFor(() => expect(here()).toBe("a"));
    key("a");
    fireEvent.click(screen.getByTestId("judge-picked"));
    expect(
      await screen.findByText(/1 changed meanwhile, or is gone, and was left alone: look again/),
    ).toBeTruthy();
    expect(sent()[0]?.body).toMatchObject({ takes: [{ id: "a" }, { id: "ccc" }] });
  });

  it("never judges what is not measured", async () => {
    answers({
      ...base,
      "GET /api/v1/takes/desk": desk([
        row("a", { state: "refused", problem: { code: "silent", detail: "Nothing is heard." } as never }),
      ]),
    });
    shown(<Desk me={TEACHER} />);
    expect(await screen.findByText(/Nothing is heard/)).toBeTruthy();
    key("j");
    key("s");
    key("j");
    expect(sent()).toEqual([]);
  });

  it("leaves keys alone that are typed into a field", async () => {
    answers({ ...base, "GET /api/v1/takes/desk": desk([row("a"), row("bb")]) });
    shown(<Desk me={TEACHER} />);
    await waitFor(() => expect(here()).toBe("a"));
    const field = document.body.appendChild(document.createElement("input"));
    fireEvent.keyDown(field, { key: "j" });
    fireEvent.keyDown(document.body, { key: "j", ctrlKey: true });
    field.remove();
    expect(sent()).toEqual([]);
  });

  it("follows a take that is being measured to its stage", async () => {
    answers({
      ...base,
      "GET /api/v1/takes/desk": desk(
        [row("a", { state: "queued" }), row("bb", { state: "measuring", stage: "contour", fraction: 0.5 })],
        { unfinished: 2 },
      ),
    });
    shown(<Desk me={TEACHER} />);
    expect(await screen.findByText("waiting for its turn")).toBeTruthy();
    expect(screen.getByText("following the pitch")).toBeTruthy();
    const [waiting, measuring] = screen.getAllByRole<HTMLProgressElement>("progressbar");
    expect(waiting?.hasAttribute("value")).toBe(false);
    expect(measuring?.value).toBe(0.5);
    await waitFor(() => expect(asked("/api/v1/takes/desk").length).toBeGreaterThan(1));
  });

  it("is filtered, remembers it, and says when nothing fits", async () => {
    answers({
      ...base,
      "GET /api/v1/students": [student(), student({ id: 4, name: "Jory" })],
      "GET /api/v1/takes/desk": ({ query }: { query: { student_id?: string } }) =>
        desk(query.student_id === "4" ? [] : [row("a")]),
    });
    const user = userEvent.setup();
    const { unmount } = shown(<Desk me={TEACHER} />);
    await user.click(await screen.findByRole("combobox", { name: "Student" }));
    await user.click(await screen.findByRole("option", { name: "Jory" }));
    expect(await screen.findByText("No take fits what is shown")).toBeTruthy();
    unmount();
    shown(<Desk me={TEACHER} />);
    await user.click(await screen.findByRole("button", { name: "Show all students and drills" }));
    await waitFor(() => expect(here()).toBe("a"));
  });

  it("lets a new teacher try it with a sample, and remove it again", async () => {
    window.localStorage.clear();
    let rows: object[] = [];
    answers({
      ...base,
      "GET /api/v1/takes/desk": () => desk(rows as never),
      "GET /api/v1/guitars": [],
      "POST /api/v1/reports/sample": () => {
        rows = [row("s", { student: "Sample student (invented)" })];
        return { take_id: "s", student_id: 9 };
      },
      "DELETE /api/v1/reports/sample": () => {
        rows = [];
        return null;
      },
    });
    const user = userEvent.setup();
    const { unmount } = shown(<Desk me={TEACHER} />);
    await user.click(await screen.findByRole("button", { name: "Try it with a sample take" }));
    expect(await screen.findByText("at /takes/s")).toBeTruthy();
    unmount();
    shown(<Desk me={TEACHER} />);
    await user.click(await screen.findByRole("button", { name: "Remove the sample" }));
    expect(await screen.findByTestId("first-steps")).toBeTruthy();
    expect(screen.queryByTestId("sample")).toBeNull();
  });

  it("tells a new teacher and a student what to do first", async () => {
    window.localStorage.clear();
    answers({ ...base, "GET /api/v1/takes/desk": desk([]), "GET /api/v1/guitars": [] });
    const user = userEvent.setup();
    const { unmount } = shown(<Desk me={TEACHER} />);
    const steps = await screen.findByTestId("first-steps");
    expect(within(steps).getAllByRole("listitem")).toHaveLength(4);
    expect(steps.textContent).toMatch(/up to\s+200 MB/);
    // A student is there already, the guitar is not.
    await waitFor(() => expect(within(steps).getAllByText("(done)")).toHaveLength(1));
    await user.click(within(steps).getByRole("button", { name: "Do not show this again" }));
    expect(await screen.findByText("Nothing waits to be judged")).toBeTruthy();
    unmount();
    const askedBefore = asked("/api/v1/plans/proposals").length;
    shown(<Desk me={STUDENT} />);
    expect(await screen.findByText("No takes here yet")).toBeTruthy();
    expect(asked("/api/v1/takes/desk").at(-1)?.query.show).toBe("all");
    // Steps are the teacher's: a student does not ask for them.
    expect(asked("/api/v1/plans/proposals")).toHaveLength(askedBefore);
    expect(screen.queryByRole("button", { name: "To judge" })).toBeNull();
  });
});

describe("steps of ladders on the Desk", () => {
  it("stand beside the newest take, and are confirmed with one key and what was read", async () => {
    answers({
      ...base,
      "GET /api/v1/takes/desk": desk([row("a"), row("bb")]),
      "GET /api/v1/plans/proposals": [UP],
      "POST /api/v1/plans/assignments/{assignment_id}/confirm": { assignment: { step_words: "70 bpm" } },
    });
    shown(<Desk me={TEACHER} />);
    const button = await screen.findByTestId("step");
    expect(button.closest("tr")?.getAttribute("data-take")).toBe("bb"); // played last
    expect(button.title).toContain(UP.says);
    key("n"); // of the first row, which has none
    expect(sent()).toEqual([]);
    key("ArrowDown");
    key("ArrowDown");
    key("n");
    expect((await screen.findByTestId("stepped")).textContent).toBe(
      "Oda: String 3: full bend at fret 7 now stands at 70 bpm.",
    );
    expect(sent()[0]).toMatchObject({ path: "/api/v1/plans/assignments/1/confirm", body: { says: UP.says } });
  });

  it("can be confirmed when their takes are judged and gone from the Desk", async () => {
    let proposals: object[] = [UP, { ...UP, assignment_id: 2, student: "Jory", student_id: 4, move: "down" }];
    answers({
      ...base,
      "GET /api/v1/takes/desk": desk([]),
      "GET /api/v1/plans/proposals": () => proposals,
      "POST /api/v1/plans/assignments/{assignment_id}/confirm": () => {
        proposals = proposals.slice(1);
        return { assignment: { step_words: "70 bpm" } };
      },
    });
    shown(<Desk me={TEACHER} />);
    fireEvent.click(await screen.findByRole("button", { name: "2 steps to confirm" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getAllByText(UP.says)).toHaveLength(2);
    expect(dialog.getByRole("link", { name: "Jory" }).getAttribute("href")).toBe("/students/4/plan");
    expect(dialog.getByRole("button", { name: "Down to 70 bpm" })).toBeTruthy();
    fireEvent.click(dialog.getByRole("button", { name: "Up to 70 bpm" }));
    expect((await dialog.findByRole("status")).textContent).toMatch(/now stands at 70 bpm/);
    await waitFor(() => expect(dialog.getByTestId("steps").children).toHaveLength(1));
    answers({
      "POST /api/v1/plans/assignments/{assignment_id}/confirm": refused(
        409,
        "The proposal has changed: Stay.",
      ),
    });
    fireEvent.click(dialog.getByRole("button", { name: "Down to 70 bpm" }));
    await waitFor(() =>
      expect(dialog.getByRole("status").textContent).toBe("The proposal has changed: Stay."),
    );
  });
});
