import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterAll, beforeEach, describe, expect, it, vi } from "vitest";
import type { Take } from "~/api/client";
import { drill, STUDENT, TEACHER, take } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";

// The sheet itself draws on a canvas; here it is only of interest that it is there, and who judges.
vi.mock("./TakeSheet", () => ({
  TakeSheet: ({ judging }: { judging: { judge: () => void } | null }) => (
    <section data-testid="sheet">
      <button type="button" onClick={() => judging?.judge()}>
        press Enter
      </button>
    </section>
  ),
}));

let TakePage: typeof import("./TakePage").TakePage;
beforeEach(async () => {
  sessionStorage.clear();
  vi.resetModules();
  ({ TakePage } = await import("./TakePage"));
});
// Files share their modules: the next one gets the sheet itself.
afterAll(() => {
  vi.doUnmock("./TakeSheet");
  vi.resetModules();
});

const ONE = take({ id: "one", original_name: "one.flac", word_version: 2 });
const at = { at: "/takes/one", path: "/takes/:id" };
const row = (id: string, part: Partial<Take> = {}) => ({ ...take({ id }), ...part });

function desk(...rows: object[]) {
  return { rows, total: rows.length, counts: { waiting: rows.length, judged: 0, unfinished: 0, refused: 0 } };
}

function base(one: () => object = () => ONE, rows: () => object[] = () => [row("one"), row("two")]) {
  return {
    "GET /api/v1/takes/{take_id}": ({ path }: { path: string }) =>
      path.endsWith("/one") ? one() : row("two"),
    "GET /api/v1/takes/{take_id}/analysis": ({ path }: { path: string }) => ({
      take: path.includes("/one/") ? one() : row("two"),
      marks: [],
    }),
    "GET /api/v1/takes/{take_id}/curves": {},
    "GET /api/v1/takes/{take_id}/sound": () => new Response(new ArrayBuffer(8)),
    "GET /api/v1/takes/desk": () => desk(...rows()),
    "GET /api/v1/drills": [drill(), drill({ id: 8, title: "Scale in thirds" })],
  };
}

describe("a take's page", () => {
  it("follows the measuring, and shows the sheet when it is done", async () => {
    const states: Partial<Take>[] = [
      { state: "queued", measured_at: null },
      { state: "measuring", stage: "contour", fraction: 0.4, measured_at: null },
      {},
    ];
    answers(base(() => ({ ...ONE, ...(states.length > 1 ? states.shift() : states[0]) })));
    shown(<TakePage me={TEACHER} />, at);
    expect(await screen.findByText("Waiting for its turn")).toBeTruthy();
    expect(screen.getByText(/The recording is stored. You may leave this page/)).toBeTruthy();
    expect(await screen.findByText("Measuring: following the pitch")).toBeTruthy();
    expect(await screen.findByTestId("sheet")).toBeTruthy();
  });

  it("shows the verdicts while what the sheet draws and plays is still being written", async () => {
    const late = refused(409, "This is still being written; ask again in a moment.", "not_drawn_yet");
    answers({
      ...base(),
      "GET /api/v1/takes/{take_id}/curves": late,
      "GET /api/v1/takes/{take_id}/sound": late,
    });
    shown(<TakePage me={TEACHER} />, at);
    expect(await screen.findByTestId("sheet")).toBeTruthy();
    expect(screen.queryByText(/still being written/)).toBeNull();
  });

  it("of a take that is gone, or was never theirs, says so", async () => {
    answers({ ...base(), "GET /api/v1/takes/{take_id}": refused(404, "There is no such take.") });
    shown(<TakePage me={TEACHER} />, at);
    expect(await screen.findByText("This take is not here any more")).toBeTruthy();
  });

  it("says that it is gone where it was deleted before all of it had come", async () => {
    let deleted = false;
    const nothing = refused(404, "There is nothing here for you.");
    answers({
      ...base(),
      "GET /api/v1/takes/{take_id}": () => (deleted ? nothing : ONE),
      "GET /api/v1/takes/{take_id}/curves": () => {
        deleted = true;
        return nothing;
      },
    });
    shown(<TakePage me={TEACHER} />, at);
    expect(await screen.findByText("This take is not here any more")).toBeTruthy();
    expect(screen.queryByText("Try again")).toBeNull();
    // Nor is there anything left to judge or delete.
    await waitFor(() => expect(screen.queryByTestId("judge")).toBeNull());
  });

  it("of a refused take says why, keeps the recording at hand, and measures it against another drill", async () => {
    const problem = { code: "other_drill", detail: "The notes are those of another drill." };
    let state: Partial<Take> = { state: "refused", problem: problem as never, measured_at: null };
    answers({
      ...base(() => ({ ...ONE, ...state })),
      "POST /api/v1/takes/{take_id}/measure": () => {
        state = { state: "queued", measured_at: null };
        return { ...ONE, ...state };
      },
    });
    const user = userEvent.setup();
    shown(<TakePage me={TEACHER} />, at);
    expect((await screen.findByRole("alert")).textContent).toContain("The notes are those of another drill.");
    expect(screen.getByRole("link", { name: "one.flac" }).getAttribute("href")).toBe(
      "/api/v1/takes/one/original",
    );
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>("combobox").disabled).toBe(false));
    await user.click(screen.getByRole("combobox", { name: "Measure it against" }));
    await user.click(await screen.findByRole("option", { name: "Scale in thirds" }));
    await user.click(screen.getByRole("button", { name: "Measure again" }));
    expect(await screen.findByText("Waiting for its turn")).toBeTruthy();
    expect(sent()[0]).toMatchObject({ path: "/api/v1/takes/one/measure", body: { drill_id: 8 } });
  });

  it("of a take that is not of its drill finds the one it is of", async () => {
    const problem = { code: "wrong_drill", detail: "This does not look like the drill." };
    answers({
      ...base(() => ({ ...ONE, state: "refused", problem, measured_at: null })),
      "POST /api/v1/takes/{take_id}/guesses": {
        id: "g",
        state: "heard",
        drills: [{ drill_id: 8, share: 0.9 }],
        problem: "",
      },
      "POST /api/v1/takes/{take_id}/measure": ONE,
    });
    shown(<TakePage me={TEACHER} />, at);
    fireEvent.click(await screen.findByRole("button", { name: "Find the drill that fits" }));
    fireEvent.click(await screen.findByRole("button", { name: "Choose it: Scale in thirds" }));
    fireEvent.click(screen.getByRole("button", { name: "Measure again" }));
    await waitFor(() => expect(sent().at(-1)?.path).toBe("/api/v1/takes/one/measure"));
    expect(sent().at(-1)?.body).toMatchObject({ drill_id: 8 });
  });

  it("tells measuring that broke off from a take that cannot be measured", async () => {
    const problem = { code: "broke", detail: "The measuring stopped. Try it again." };
    answers(base(() => ({ ...ONE, state: "failed", problem, measured_at: null })));
    shown(<TakePage me={TEACHER} />, at);
    expect(await screen.findByText("Measuring broke off")).toBeTruthy();
  });

  it("is hidden, not deleted, by a student whose teacher has judged it", async () => {
    answers({
      ...base(() => ({ ...ONE, judged_at: "2026-11-26T10:00:00Z" })),
      "POST /api/v1/takes/{take_id}/hide": null,
    });
    shown(<TakePage me={STUDENT} />, at);
    fireEvent.click(await screen.findByRole("button", { name: "Hide" }));
    expect(screen.queryByRole("button", { name: "Delete" })).toBeNull();
    fireEvent.click(await screen.findByRole("button", { name: "Hide it" }));
    expect(await screen.findByText("at /")).toBeTruthy();
    expect(sent()[0]).toMatchObject({ method: "POST", path: "/api/v1/takes/one/hide" });
  });

  it("is deleted after a question, and leads to the Desk", async () => {
    answers({ ...base(), "DELETE /api/v1/takes/{take_id}": null });
    shown(<TakePage me={TEACHER} />, at);
    fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
    fireEvent.click(await screen.findByRole("button", { name: "Keep it" }));
    expect(sent()).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Delete" }));
    fireEvent.click(await screen.findByRole("button", { name: "Delete for good" }));
    expect(await screen.findByText("at /")).toBeTruthy();
    expect(sent()[0]).toMatchObject({ method: "DELETE", path: "/api/v1/takes/one" });
  });
});

describe("judging from a take's sheet", () => {
  const enter = async () => {
    await waitFor(() => expect(asked("/api/v1/takes/desk").length).toBeGreaterThan(0));
    fireEvent.click(await screen.findByRole("button", { name: "press Enter" }));
  };

  it("confirms the version that was seen, then goes on to the next that waits", async () => {
    answers({ ...base(), "POST /api/v1/takes/judge": { done: ["one"], changed: [] } });
    shown(<TakePage me={TEACHER} />, at);
    expect((await screen.findByTestId("judge")).textContent).toBe("Judged, next");
    await enter();
    await waitFor(() => expect(asked("/api/v1/takes/two/analysis")).toHaveLength(1));
    expect(sent()[0]?.body).toEqual({ takes: [{ id: "one", word_version: 2 }], judged: true });
  });

  it("of the last one leads back to the Desk", async () => {
    answers({
      ...base(
        () => ONE,
        () => [row("one")],
      ),
      "POST /api/v1/takes/judge": { done: ["one"], changed: [] },
    });
    shown(<TakePage me={TEACHER} />, at);
    await waitFor(() => expect(screen.getByTestId("judge").textContent).toBe("Judged"));
    await enter();
    expect(await screen.findByText("at /")).toBeTruthy();
  });

  it("is refused where somebody changed it meanwhile; the sentence stays while the Desk moves on", async () => {
    let rows = [row("one"), row("two")];
    answers({
      ...base(
        () => ONE,
        () => rows,
      ),
      "POST /api/v1/takes/judge": { done: [], changed: ["one"] },
    });
    shown(<TakePage me={TEACHER} />, at);
    await enter();
    expect((await screen.findByRole("alert")).textContent).toMatch(/was changed meanwhile/);
    // Another student's take arrives and comes next.
    rows = [row("one"), row("three"), row("two")];
    const before = asked("/api/v1/takes/desk").length;
    fireEvent(window, new Event("visibilitychange"));
    await waitFor(() => expect(asked("/api/v1/takes/desk").length).toBeGreaterThan(before));
    await waitFor(() => expect(asked("/api/v1/takes/three")).toHaveLength(1));
    expect(screen.getByRole("alert").textContent).toMatch(/was changed meanwhile/);
  });

  it("says what went wrong on this take, and not on the next", async () => {
    answers({
      ...base(),
      "POST /api/v1/takes/judge": refused(503, "The database does not answer. Try again."),
    });
    shown(<TakePage me={TEACHER} />, at);
    await enter();
    expect((await screen.findByRole("alert")).textContent).toBe("The database does not answer. Try again.");
    answers({ "POST /api/v1/takes/judge": { done: ["one"], changed: [] } });
    await enter();
    await waitFor(() => expect(asked("/api/v1/takes/two/analysis")).toHaveLength(1));
    await screen.findByTestId("sheet");
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("is the teacher's", async () => {
    answers(base());
    shown(<TakePage me={STUDENT} />, at);
    await screen.findByTestId("sheet");
    expect(screen.queryByTestId("judge")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "press Enter" }));
    expect(sent()).toEqual([]);
    expect(asked("/api/v1/takes/desk")).toEqual([]);
  });
});
