import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Logbook } from "~/api/week";
import { STUDENT } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { LogbookPage } from "./LogbookPage";
import { WeekMinutes } from "./WeekMinutes";
import { WriteLog } from "./WriteLog";

const BOOK = {
  weeks: [
    ["2026-11-16", 40],
    ["2026-11-23", 22.5],
  ],
  days: [
    {
      day: "2026-11-26",
      minutes: 12.5,
      takes: 3,
      asked: 12,
      clean: 9,
      entries: [
        { id: "e1", kind: "practice", drill: "A scale", minutes: 12.5, text: "slowly", by: "Oda" },
        { id: "e2", kind: "discomfort", drill: null, minutes: null, text: "left wrist", by: "Oda" },
      ],
    },
    { day: "2026-11-25", minutes: 0, takes: 1, asked: 0, clean: 0, entries: [] },
  ],
} as unknown as Logbook;

const empty = { weeks: [], days: [] };

describe("the logbook", () => {
  it("counts minutes and takes by day, and rewards nobody", async () => {
    answers({ "GET /api/v1/students": [], "GET /api/v1/plans/log": BOOK });
    const { container } = shown(<LogbookPage me={STUDENT} />);
    const list = await screen.findByTestId("logbook");
    const [thursday, wednesday] = list.querySelectorAll("[data-day]");
    expect(thursday?.textContent).toContain("12.5 min3 takes, 75 % clean");
    expect(thursday?.textContent).toContain("A scale, 12.5 minslowly");
    expect(thursday?.textContent).toContain("Stopped, discomfort. left wrist");
    // A take in which nothing was asked has no share.
    expect(wednesday?.textContent).toMatch(/1 take$/);
    expect(container.textContent).not.toMatch(/streak|badge|well done|missed/i);
    expect(asked("/api/v1/plans/log")[0]?.query).toEqual({ student_id: "3", days: "90" });
  });

  it("takes a line out", async () => {
    let book: object = BOOK;
    answers({
      "GET /api/v1/students": [],
      "GET /api/v1/plans/log": () => book,
      "DELETE /api/v1/plans/log/{entry_id}": () => {
        book = empty;
        return null;
      },
    });
    shown(<LogbookPage me={STUDENT} />);
    fireEvent.click((await screen.findAllByRole("button", { name: "Take this line out" }))[0] as Element);
    expect(await screen.findByText("Nothing yet")).toBeTruthy();
    expect(sent()[0]?.path).toBe("/api/v1/plans/log/e1");
  });

  it("says why a line stays", async () => {
    answers({
      "GET /api/v1/students": [],
      "GET /api/v1/plans/log": BOOK,
      "DELETE /api/v1/plans/log/{entry_id}": refused(403, "Your teacher wrote this; ask them."),
    });
    shown(<LogbookPage me={STUDENT} />);
    fireEvent.click((await screen.findAllByRole("button", { name: "Take this line out" }))[1] as Element);
    expect((await screen.findByRole("alert")).textContent).toBe("Your teacher wrote this; ask them.");
  });
});

describe("writing in the logbook", () => {
  const write = () => screen.getByRole<HTMLButtonElement>("button", { name: "Write it down" });
  const type = (label: string, value: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value } });

  it("needs minutes or a note", async () => {
    answers({ "POST /api/v1/plans/log": {} });
    shown(<WriteLog studentId={3} />);
    expect(write().disabled).toBe(true);
    type("Note", "  ");
    expect(write().disabled).toBe(true);
    type("Note", "the new strings feel stiff");
    fireEvent.click(write());
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toMatchObject({ kind: "note", minutes: null, day: null });
    await waitFor(() => expect(screen.getByLabelText<HTMLTextAreaElement>("Note").value).toBe(""));
  });

  it("takes minutes with a comma, for a day", async () => {
    answers({ "POST /api/v1/plans/log": {} });
    shown(<WriteLog studentId={3} />);
    type("Minutes", "7,5");
    type("Day (empty: today)", "2026-11-20");
    fireEvent.click(write());
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toEqual({
      student_id: 3,
      kind: "practice",
      day: "2026-11-20",
      minutes: 7.5,
      text: "",
      assignment_id: null,
    });
  });

  it("never loses minutes that cannot be read", async () => {
    answers({});
    shown(<WriteLog studentId={3} />);
    type("Minutes", "ten");
    type("Note", "slowly");
    fireEvent.click(write());
    expect((await screen.findByRole("alert")).textContent).toMatch(/^Minutes: “ten” is no number/);
    expect(sent()).toEqual([]);
    expect(screen.getByLabelText<HTMLTextAreaElement>("Note").value).toBe("slowly");
  });

  it("says which days can be written for", async () => {
    answers({ "POST /api/v1/plans/log": refused(400, "Days of the last two months can be written for.") });
    shown(<WriteLog studentId={3} />);
    type("Minutes", "5");
    type("Day (empty: today)", "2020-01-01");
    fireEvent.click(write());
    expect((await screen.findByRole("alert")).textContent).toMatch(/last two months/);
    expect(screen.getByLabelText<HTMLInputElement>("Minutes").value).toBe("5");
  });
});

describe("minutes of the weeks", () => {
  it("are bars of one scale, the newest thirteen", () => {
    const weeks = Array.from({ length: 20 }, (_, i): [string, number] => [
      new Date(Date.UTC(2026, 5, 1 + 7 * i)).toISOString().slice(0, 10),
      i === 19 ? 120 : 60,
    ]);
    const { container } = shown(<WeekMinutes weeks={weeks} />);
    const bars = [...container.querySelectorAll("rect")];
    expect(bars).toHaveLength(13);
    const heights = bars.map((b) => Number(b.getAttribute("height")));
    expect(heights[0]).toBeCloseTo((heights[12] ?? 0) / 2);
    for (const bar of bars) {
      expect(Number(bar.getAttribute("y"))).toBeGreaterThanOrEqual(0);
      expect(Number(bar.getAttribute("x")) + Number(bar.getAttribute("width"))).toBeLessThanOrEqual(320);
    }
    expect(screen.getByText(/at most 120 min/)).toBeTruthy();
  });
});
