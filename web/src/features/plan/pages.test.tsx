import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Plan } from "~/api/week";
import { assignment, drill, plan, STUDENT, student, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { AssignDialog } from "./AssignDialog";
import { LadderDialog } from "./LadderDialog";
import { PlanPage } from "./PlanPage";
import { PracticeDialog } from "./PracticeDialog";
import { TermsDialog } from "./TermsDialog";
import { TodayPage } from "./TodayPage";

const SCALE = assignment({
  id: 2,
  drill_id: 8,
  drill: "Scale in thirds",
  step_words: "80 bpm",
  note: "softly",
});

function today(part: Partial<Plan["days"][number]>, rest: Partial<Plan> = {}): Plan {
  const made = plan({ assignments: [assignment(), SCALE], ...rest });
  return { ...made, days: made.days.map((d) => (d.day === made.today ? { ...d, ...part } : d)) };
}

describe("today", () => {
  const block = (assignment_id: number | null, minutes: number, done = 0, recorded = 0) => ({
    assignment_id,
    minutes,
    done,
    recorded,
  });

  it("is a list to work through, with breaks, what was done, and why each step stays", async () => {
    answers({
      "GET /api/v1/plans/week": today({
        minutes: 24,
        blocks: [block(1, 12, 4, 2), block(null, 5), block(2, 12, 12), block(null, 5), block(1, 12)],
        cautions: [{ code: "strain", text: "Warm up." }],
      }),
    });
    shown(<TodayPage me={STUDENT} />);
    expect((await screen.findByTestId("today-words")).textContent).toBe("24 min today.");
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("Thursday");
    const items = screen.getByTestId("today").querySelectorAll(":scope > li");
    expect(items[0]?.textContent).toContain("66 bpm, 2 recorded, 4 min done");
    expect(items[0]?.textContent).toContain("Up to 70 bpm.");
    expect(items[1]?.textContent).toBe("Break, 5 min. Put the guitar down.");
    expect(items[2]?.textContent).toContain("softly");
    expect(within(items[0] as HTMLElement).getByRole("button").textContent).toBe("Played it");
    expect(within(items[2] as HTMLElement).getByRole("button").textContent).toBe("Done; log more");
    expect(
      within(items[0] as HTMLElement)
        .getByRole("link")
        .getAttribute("href"),
    ).toBe("/record/7?student=3&bpm=66");
    expect(screen.getByText("Warm up.")).toBeTruthy();
  });

  it("without work names the next day that has some, and scolds nobody", async () => {
    answers({ "GET /api/v1/plans/week": today({ minutes: 0, blocks: [] }) });
    const { container } = shown(<TodayPage me={STUDENT} />);
    expect((await screen.findByTestId("today-words")).textContent).toBe(
      "Nothing is planned for today. Next: Friday.",
    );
    expect(container.textContent).not.toMatch(/missed|behind|should/i);
  });

  it("logs what was played with the minutes that were planned", async () => {
    answers({
      "GET /api/v1/plans/week": today({ minutes: 4, blocks: [block(1, 4)] }),
      "POST /api/v1/plans/log": {},
    });
    shown(<TodayPage me={STUDENT} />);
    fireEvent.click(await screen.findByRole("button", { name: "Played it" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByLabelText<HTMLInputElement>("How long").value).toBe("4");
    fireEvent.change(dialog.getByLabelText("How long"), { target: { value: "6 min" } });
    fireEvent.click(dialog.getByRole("button", { name: "Log it" }));
    expect((await dialog.findByRole("alert")).textContent).toMatch(/“6 min” is no number/);
    fireEvent.change(dialog.getByLabelText("How long"), { target: { value: "6,5" } });
    fireEvent.click(dialog.getByRole("button", { name: "Log it" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent()[0]?.body).toMatchObject({ kind: "practice", assignment_id: 1, minutes: 6.5 });
  });

  it("shows that ladders rest, and can be tried again where it cannot be read", async () => {
    const hold = { since: "2026-11-25T10:00:00Z", text: "left wrist", says: "Discomfort was logged." };
    let fails = true;
    answers({
      "GET /api/v1/plans/week": () =>
        fails ? refused(503, "The database does not answer.") : plan({ hold }),
    });
    shown(<TodayPage me={STUDENT} />);
    expect((await screen.findByRole("alert")).textContent).toContain("The database does not answer.");
    fails = false;
    fireEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect((await screen.findByTestId("hold")).textContent).toContain("left wrist");
  });
});

describe("the plan's page", () => {
  const at = { at: "/students/3/plan", path: "/students/:id/plan" };

  it("turns weeks over and comes back to this one", async () => {
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/plans/week": ({ query }: { query: { day?: string } }) =>
        query.day ? plan({ monday: query.day, days: [] }) : plan(),
    });
    shown(<PlanPage me={TEACHER} />, at);
    expect(await screen.findByRole("heading", { name: "This week" })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "The week after" }));
    expect(await screen.findByRole("heading", { name: /30 Nov to .* 6 Dec/ })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "The week after" }));
    expect(await screen.findByRole("heading", { name: /7 Dec to .* 13 Dec/ })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "This week" }));
    expect(await screen.findByRole("heading", { name: "This week" })).toBeTruthy();
    expect(
      asked("/api/v1/plans/week")
        .map((a) => a.query.day)
        .slice(0, 3),
    ).toEqual([undefined, "2026-11-30", "2026-12-07"]);
  });

  it("lets only the teacher assign", async () => {
    answers({ "GET /api/v1/plans/week": plan(), "GET /api/v1/students": [] });
    shown(<PlanPage me={STUDENT} />, { at: "/plan" });
    expect(await screen.findByRole("heading", { name: "This week" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Assign a drill" })).toBeNull();
    expect(screen.getByRole("button", { name: /Practice times/ })).toBeTruthy();
  });
});

describe("assigning a drill", () => {
  const many = Array.from({ length: 20 }, (_, i) =>
    drill({ id: 100 + i, title: `Run number ${i + 1}`, family: "alternate_picking", bpm: 80 }),
  );

  it("offers what is in use, not assigned yet and no set-up take, and finds it by words", async () => {
    answers({
      "GET /api/v1/drills": [
        drill(),
        drill({ id: 8, title: "Old one", archived: true }),
        drill({ id: 9, title: "Set-up take", family: "set_up" }),
        drill({ id: 10, title: "Free bends", bpm: null, tags: ["recital"] }),
        ...many,
      ],
    });
    shown(<AssignDialog studentId={3} running={[assignment()]} open onClose={() => {}} />);
    await screen.findByText("Free bends");
    const names = () => screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(names()).toHaveLength(12);
    expect(names()[0]).toBe("Free bendsfree time");
    expect(screen.getByText("9 more; search for them.")).toBeTruthy();
    for (const gone of ["Old one", "Set-up take", "String 3: full bend at fret 7"])
      expect(screen.queryByText(gone)).toBeNull();
    fireEvent.change(screen.getByLabelText("Search"), { target: { value: "recital" } });
    expect(names()).toEqual(["Free bendsfree time"]);
    fireEvent.change(screen.getByLabelText("Search"), { target: { value: "run 12" } });
    expect(names()).toEqual(["Run number 1280 bpm"]);
    fireEvent.change(screen.getByLabelText("Search"), { target: { value: "nothing like it" } });
    expect(screen.getByText("No drill fits.")).toBeTruthy();
  });

  it("sends dose, goal and rule, and keeps what was typed where it is refused", async () => {
    answers({
      "GET /api/v1/drills": [drill()],
      "POST /api/v1/plans/assignments": refused(400, "Oda works on this drill already."),
    });
    const user = userEvent.setup();
    shown(<AssignDialog studentId={3} running={[]} open onClose={() => {}} />);
    await user.click(await screen.findByRole("button", { name: /full bend at fret 7/ }));
    expect(screen.getByLabelText<HTMLInputElement>("Begins at").value).toBe("66");
    fireEvent.change(screen.getByLabelText("A day"), { target: { value: "2,5" } });
    fireEvent.change(screen.getByLabelText("Goal (may be left out)"), { target: { value: "96" } });
    fireEvent.click(screen.getByRole("button", { name: "Assign it" }));
    expect((await screen.findByRole("alert")).textContent).toBe("Oda works on this drill already.");
    expect(sent()[0]?.body).toMatchObject({
      student_id: 3,
      drill_id: 7,
      minutes: 2.5,
      days: 5,
      step: { bpm: 66, per_click: null },
      goal: { bpm: 96, per_click: null },
      rule: { speed: "tempo_steps", clean_takes: 3, ceiling_share: 0.85, subdivisions: [1, 2, 3, 4, 6] },
    });
    expect(screen.getByLabelText<HTMLInputElement>("A day").value).toBe("2,5");
  });

  it("of another school changes what goes with it", async () => {
    answers({ "GET /api/v1/drills": [drill()], "POST /api/v1/plans/assignments": {} });
    const user = userEvent.setup();
    shown(<AssignDialog studentId={3} running={[]} open onClose={() => {}} />);
    await user.click(await screen.findByRole("button", { name: /full bend at fret 7/ }));
    await user.click(screen.getByRole("combobox", { name: "How speed is gained" }));
    await user.click(await screen.findByRole("option", { name: "Stay until it is effortless" }));
    expect(screen.getByText(/Up after 10 clean takes in a row/)).toBeTruthy();
    await user.click(screen.getByRole("combobox", { name: "How speed is gained" }));
    await user.click(await screen.findByRole("option", { name: "More notes to a click" }));
    expect(screen.getByText(/Up after 3 clean takes in a row, down after 2 under 80 %$/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Assign it" }));
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toMatchObject({
      step: { bpm: 66, per_click: 1 },
      rule: { speed: "notes_per_click", clean_takes: 3 },
    });
  });

  it("is let rest, or changed with its own rule kept", async () => {
    const rule = {
      speed: "tempo_steps",
      clean_takes: 4,
      clean_share: 0.9,
      down_takes: 2,
      down_share: 0.7,
    } as const;
    const own = assignment({
      rule: { ...rule, tempo_step_bpm: 6, subdivisions: [1, 2, 4], ceiling_share: 0.8 },
    });
    answers({
      "PUT /api/v1/plans/assignments/{assignment_id}": {},
      "DELETE /api/v1/plans/assignments/{assignment_id}": null,
    });
    const { unmount } = shown(<TermsDialog assignment={own} others={[own, SCALE]} onClose={() => {}} />);
    fireEvent.change(screen.getByLabelText("Days a week"), { target: { value: "4" } });
    fireEvent.click(screen.getByRole("button", { name: "Change it" }));
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toMatchObject({ days: 4, begins: "2026-11-01", rule: own.rule });
    unmount();
    shown(<TermsDialog assignment={own} others={[own]} onClose={() => {}} />);
    fireEvent.click(screen.getByRole("button", { name: "Let it rest" }));
    await waitFor(() => expect(sent()[1]?.method).toBe("DELETE"));
  });
});

describe("a ladder", () => {
  const ladder = {
    assignment: assignment({ standing: { ...assignment().standing, takes: ["t1", "t2"] } }),
    steps: [
      { bpm: 62, per_click: null },
      { bpm: 66, per_click: null },
      { bpm: 70, per_click: null },
    ],
    history: [
      { at: "2026-11-20T10:00:00Z", move: "up", says: "Up to 66 bpm: clean.", made_by: "Ines" },
      { at: "2026-11-15T10:00:00Z", move: "up", says: "Up to 62 bpm: clean.", made_by: null },
      { at: "2026-11-12T10:00:00Z", move: "set", says: "Ines set 58 bpm: too fast.", made_by: "Ines" },
    ],
  };

  it("shows what it rests on and how it came there", async () => {
    answers({ "GET /api/v1/plans/assignments/{assignment_id}": ladder });
    shown(<LadderDialog id={1} teacher={false} zone="UTC" onClose={() => {}} />);
    expect((await screen.findByTestId("ladder-says")).textContent).toBe("Up to 70 bpm.");
    expect(screen.getAllByRole("link").map((l) => l.getAttribute("href"))).toEqual([
      "/takes/t1",
      "/takes/t2",
    ]);
    const rows = screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(rows[0]).toContain("(confirmed by Ines)");
    expect(rows[1]).toContain("(by the rule)");
    expect(rows[2]).toMatch(/too fast\. $/);
    expect(screen.queryByRole("combobox")).toBeNull();
  });

  it("takes the teacher's own step with the reason, never the one it stands at", async () => {
    answers({
      "GET /api/v1/plans/assignments/{assignment_id}": ladder,
      "PUT /api/v1/plans/assignments/{assignment_id}/step": refused(
        409,
        "Somebody has changed it meanwhile.",
      ),
    });
    const user = userEvent.setup();
    shown(<LadderDialog id={1} teacher zone="UTC" onClose={() => {}} />);
    await user.click(await screen.findByRole("combobox", { name: "Your own step" }));
    expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toEqual(["62 bpm", "70 bpm"]);
    await user.keyboard("{Enter}");
    await user.type(screen.getByLabelText("Why"), "back to the ear{Enter}");
    expect((await screen.findByRole("alert")).textContent).toBe("Somebody has changed it meanwhile.");
    expect(sent()[0]?.body).toEqual({ step: { bpm: 62, per_click: null }, why: "back to the ear" });
  });
});

describe("practice times", () => {
  const practice = plan().practice;

  it("are kept by weekday, free days as nothing", async () => {
    answers({ "PUT /api/v1/plans/practice/{student_id}": practice });
    shown(<PracticeDialog studentId={3} practice={practice} onClose={() => {}} />);
    fireEvent.change(screen.getByLabelText("Mon"), { target: { value: "12,5" } });
    fireEvent.change(screen.getByLabelText("Tue"), { target: { value: "" } });
    fireEvent.click(screen.getByRole("button", { name: "Keep" }));
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]?.body).toEqual({ minutes: [12.5, 0, 20, 20, 20, 0, 0], at: "19:00" });
  });

  it("are refused with the day's name where one is no number", async () => {
    answers({});
    shown(<PracticeDialog studentId={3} practice={practice} onClose={() => {}} />);
    fireEvent.change(screen.getByLabelText("Wed"), { target: { value: "half an hour" } });
    fireEvent.click(screen.getByRole("button", { name: "Keep" }));
    expect((await screen.findByRole("alert")).textContent).toMatch(/^Wed: “half an hour” is no number/);
    expect(sent()).toEqual([]);
  });

  it("come into a calendar by a file or an address that can be ended", async () => {
    answers({
      "POST /api/v1/plans/feed/{student_id}": { link: "https://quay.example/feed/x.ics" },
      "DELETE /api/v1/plans/feed/{student_id}": null,
    });
    const { unmount } = shown(<PracticeDialog studentId={3} practice={practice} onClose={() => {}} />);
    expect(screen.getByRole("link", { name: "Save as a calendar file" }).getAttribute("href")).toBe(
      "/api/v1/plans/calendar/3",
    );
    expect(screen.queryByRole("button", { name: "End the address" })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "An address that keeps up to date" }));
    expect((await screen.findByTestId<HTMLInputElement>("link")).value).toBe(
      "https://quay.example/feed/x.ics",
    );
    unmount();
    shown(<PracticeDialog studentId={3} practice={{ ...practice, feed: true }} onClose={() => {}} />);
    expect(screen.getByRole("button", { name: "A new calendar address" })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "End the address" }));
    await waitFor(() => expect(sent()[1]?.method).toBe("DELETE"));
  });
});
