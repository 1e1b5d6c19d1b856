import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { AgainRead } from "~/api/again";
import { TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { workWords } from "./again";
import { MeasureAgain } from "./MeasureAgain";

const ORDER: AgainRead = {
  id: "11111111-2222-4333-8444-555555555555",
  state: "measured",
  asked_at: "2026-11-26T10:00:00Z",
  ended_at: "2026-11-26T10:20:00Z",
  student: null,
  drill: null,
  all_versions: false,
  core_version: "0.4.3",
  total: 31,
  measured: 30,
  refused: 1,
  waiting: 0,
  kept: 0,
  left_alone: 0,
  flips: [
    { measure: "timing", before: "unclear", after: "inside", count: 12 },
    { measure: "note", before: null, after: "outside", count: 1 },
  ],
  most_changed: [
    {
      take_id: "99999999-2222-4333-8444-555555555555",
      student: "Oda Vintersee",
      drill: "Low tide",
      played_at: "2026-11-20T18:00:00Z",
      changed: 4,
      clean: [20, 24],
      asked: [32, 32],
      core_versions: ["0.3.0", "0.4.3"],
    },
  ],
};
const ESTIMATE = { takes: 31, minutes: 4.2, core_version: "0.4.3" };
const page = () => shown(<MeasureAgain zone={TEACHER.zone} />);

describe("takes measured again", () => {
  it("are asked for with how many they are and how long that takes", async () => {
    answers({
      "GET /api/v1/takes/again": [],
      "GET /api/v1/takes/again/estimate": ESTIMATE,
      "GET /api/v1/students": [],
      "POST /api/v1/takes/again": { ...ORDER, state: "listing" },
    });
    page();
    expect((await screen.findByTestId("estimate")).textContent).toContain(
      "31 takes, about 4 minutes of work",
    );
    fireEvent.click(screen.getByLabelText("Also takes that this version has measured"));
    await waitFor(() =>
      expect(asked("/api/v1/takes/again/estimate").at(-1)?.query.all_versions).toBe("true"),
    );
    fireEvent.click(screen.getByRole("button", { name: "Measure again" }));
    await waitFor(() =>
      expect(sent()[0]?.body).toEqual({ student_id: null, drill_id: null, all_versions: true }),
    );
  });

  it("are not asked for where this version measured them all", async () => {
    answers({
      "GET /api/v1/takes/again/estimate": { ...ESTIMATE, takes: 0, minutes: 0 },
      "GET /api/v1/students": [],
    });
    page();
    expect((await screen.findByTestId("estimate")).textContent).toContain("already");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Measure again" }).disabled).toBe(true);
  });

  it("say what would be judged otherwise, and count only once they are kept", async () => {
    let state: AgainRead["state"] = "measured";
    answers({
      "GET /api/v1/takes/again": () => [{ ...ORDER, state }],
      "POST /api/v1/takes/again/{order_id}/keep": () => {
        state = "keeping";
        return { ...ORDER, state };
      },
    });
    page();
    const order = within(await screen.findByTestId("again"));
    expect(order.getByText("All measured; nothing counts yet.")).toBeTruthy();
    expect(order.getByText(/31 of 31 takes done, 1 could not be measured/)).toBeTruthy();
    const rows = order.getAllByRole("row").map((row) => row.textContent);
    expect(rows[1]).toContain("cannot tell");
    expect(rows[1]).toContain("clean12");
    expect(rows[2]).toContain("not judged");
    expect(order.getByText(/20 of 32 clean before, 24 of 32 now/)).toBeTruthy();
    fireEvent.click(order.getByRole("button", { name: "Keep the new results" }));
    expect(sent()).toEqual([]);
    const dialog = within(await screen.findByRole("dialog"));
    fireEvent.click(dialog.getByRole("button", { name: "Keep them" }));
    expect(await order.findByText("The new results are being kept.")).toBeTruthy();
    expect(order.queryByRole("button")).toBeNull();
  });

  it("are paused and gone on with", async () => {
    let state: AgainRead["state"] = "running";
    answers({
      "GET /api/v1/takes/again": () => [
        { ...ORDER, state, measured: 10, refused: 0, waiting: 21, flips: [] },
      ],
      "POST /api/v1/takes/again/{order_id}/pause": () => {
        state = "paused";
        return { ...ORDER, state };
      },
    });
    page();
    const order = within(await screen.findByTestId("again"));
    expect(order.getByRole<HTMLProgressElement>("progressbar").value).toBe(10);
    expect(order.getByText("No note is judged otherwise.")).toBeTruthy();
    fireEvent.click(order.getByRole("button", { name: "Pause" }));
    expect(await order.findByRole("button", { name: "Go on" })).toBeTruthy();
    expect(order.queryByRole("progressbar")).toBeNull();
  });

  it("may be refused in a sentence", async () => {
    answers({
      "GET /api/v1/takes/again/estimate": ESTIMATE,
      "GET /api/v1/students": [],
      "POST /api/v1/takes/again": refused(409, "Keep or drop what is being measured again first."),
    });
    page();
    fireEvent.click(await screen.findByRole("button", { name: "Measure again" }));
    expect(await screen.findByText(/Keep or drop what is being measured/)).toBeTruthy();
  });

  it("once kept, leave room for another order", async () => {
    answers({
      "GET /api/v1/takes/again": [
        { ...ORDER, state: "kept", kept: 29, left_alone: 1, measured: 0, refused: 0 },
      ],
      "GET /api/v1/students": [],
    });
    page();
    expect(await screen.findByText(/29 takes kept; 1 were changed meanwhile/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Measure again" })).toBeTruthy();
  });
});

it.each([
  [0.2, "a minute"],
  [4.2, "4 minutes"],
  [89, "89 minutes"],
  [300, "5 hours"],
])("%s minutes of work are %s", (minutes, words) => {
  expect(workWords(minutes)).toBe(words);
});
