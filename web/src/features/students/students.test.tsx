import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { drill, STUDENT, student, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { GuestLinks } from "./GuestLinks";
import { People } from "./People";
import { StudentPage } from "./StudentPage";
import { Students } from "./Students";
import { TakesPage } from "./TakesPage";

function needs(part: object = {}) {
  return {
    student_id: 3,
    works_on: 2,
    steps: 1,
    held: false,
    minutes_this_week: 12.5,
    newest_take: null,
    ...part,
  };
}

function classRow(studentId: number, part: object = {}) {
  return {
    student_id: studentId,
    name: "",
    waiting: 0,
    need: 0,
    newest_take: "2026-11-25T19:00:00Z",
    cells: [],
    takes: [],
    minutes: [],
    ...part,
  };
}

describe("the students", () => {
  it("are shown with what they need, who needs an ear first", async () => {
    answers({
      "GET /api/v1/students": [
        student(),
        student({ id: 4, name: "Jory", takes: 1, account: "jory@quay.example" }),
        student({ id: 5, name: "Mirren", takes: 0, account: "m@quay.example" }),
      ],
      "GET /api/v1/plans/needs": [
        needs(),
        needs({ student_id: 4, works_on: 0, steps: 0, minutes_this_week: 0 }),
        needs({ student_id: 5, works_on: 1, steps: 2, held: true, minutes_this_week: 0 }),
      ],
      "GET /api/v1/reports/class": {
        weeks: [],
        days: [],
        rows: [
          classRow(5, { newest_take: null }),
          classRow(3, { waiting: 2 }),
          classRow(4, { newest_take: "2026-10-02T19:00:00Z" }),
        ],
      },
    });
    const user = userEvent.setup();
    shown(<Students me={TEACHER} />);
    await screen.findByText(/2 takes to judge/);
    const lines = () =>
      [...screen.getByTestId("students").querySelectorAll("tbody th")].map((t) => t.textContent);
    expect(lines()).toEqual([
      "Mirrenrests: something hurts, 2 steps to confirm, 1 drill, no take yet",
      expect.stringMatching(
        /^Oda2 takes to judge, 1 step to confirm, 2 drills, 12.5 min this week.*no account yet$/,
      ),
      expect.stringMatching(/^Joryworks on nothing, last take 2 October/),
    ]);
    await user.click(screen.getByRole("combobox", { name: "Order" }));
    await user.click(await screen.findByRole("option", { name: "by name" }));
    expect(lines().map((l) => l?.slice(0, 4))).toEqual(["Jory", "Mirr", "Oda2"]);
  });

  it("show each skill with its weeks, and lead to the takes behind it", async () => {
    const share = { percent: 75, low: 60, high: 86, notes: 40, takes: 2 };
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/plans/needs": [needs()],
      "GET /api/v1/reports/class": {
        weeks: [],
        days: [],
        rows: [
          classRow(3, {
            cells: [
              { skill: "timing", weeks: [null, share], now: share },
              { skill: "level", weeks: [null, null], now: null },
            ],
          }),
        ],
      },
      "GET /api/v1/reports/class/takes": {
        takes: [{ take_id: "t1", drill: "A scale", played_at: "2026-11-25T19:00:00Z", share, ticks: "..-." }],
      },
    });
    const user = userEvent.setup();
    shown(<Students me={TEACHER} />);
    const cells = await screen.findAllByRole("button", { name: /^Oda, / });
    expect(cells.map((c) => c.getAttribute("aria-label"))).toEqual([
      "Oda, time: 75 % (60 to 86) clean of 40 notes in two weeks; by weeks none, 75",
    ]);
    await user.click(cells[0] as Element);
    const link = await screen.findByRole("link", { name: "A scale" });
    expect(link.getAttribute("href")).toBe("/takes/t1");
    expect(asked("/api/v1/reports/class/takes")[0]?.query).toEqual({ student_id: "3", skill: "timing" });
    expect(screen.getByRole("dialog").textContent).toContain("75 % (60 to 86)");
  });

  it("are still shown where their needs cannot be read", async () => {
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/plans/needs": refused(500, "x"),
      "GET /api/v1/reports/class": refused(500, "x"),
    });
    shown(<Students me={TEACHER} />);
    expect(await screen.findByRole("link", { name: "Oda" })).toBeTruthy();
  });

  it("are added by name, with what has to be thought of first", async () => {
    const here = [] as object[];
    answers({
      "GET /api/v1/students": () => here,
      "GET /api/v1/plans/needs": [],
      "GET /api/v1/reports/class": { weeks: [], days: [], rows: [] },
      "POST /api/v1/students": () => {
        here.push(student({ id: 9, name: "Wren", takes: 0 }));
        return here[0];
      },
    });
    const user = userEvent.setup();
    shown(<Students me={TEACHER} />);
    expect(await screen.findByText("No students yet")).toBeTruthy();
    expect(screen.getByText(/for minors you need the consent/)).toBeTruthy();
    await user.type(screen.getByLabelText("New student"), "   ");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Add" }).disabled).toBe(true);
    await user.type(screen.getByLabelText("New student"), "Wren{Enter}");
    expect(await screen.findByRole("link", { name: "Wren" })).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("New student").value).toBe("");
  });
});

describe("one student's page", () => {
  const base = {
    "GET /api/v1/students": [student()],
    "GET /api/v1/guitars": [],
    "GET /api/v1/bench/ear-checks": [],
    "GET /api/v1/takes/voice": [],
    "GET /api/v1/takes": [],
    "GET /api/v1/guests/links": [],
    "GET /api/v1/drills": [drill()],
  };

  it("says what is not there yet, and has the account's part for the teacher alone", async () => {
    answers(base);
    const { unmount } = shown(<StudentPage me={TEACHER} />, { at: "/students/3", path: "/students/:id" });
    expect(await screen.findByText(/Takes are read against the guitar once it is known/)).toBeTruthy();
    expect(screen.getByText("Not checked yet.")).toBeTruthy();
    expect(await screen.findByText("None yet.")).toBeTruthy();
    expect(screen.getByRole("region", { name: "Account" })).toBeTruthy();
    unmount();
    shown(<StudentPage me={STUDENT} />, { at: "/students/3", path: "/students/:id" });
    await screen.findByText("Not checked yet.");
    expect(screen.queryByRole("region", { name: "Account" })).toBeNull();
  });

  it("of nobody says so", async () => {
    answers(base);
    shown(<StudentPage me={TEACHER} />, { at: "/students/99", path: "/students/:id" });
    expect(await screen.findByText("There is no such student here.")).toBeTruthy();
  });

  it("tells what the ear hears in its unit, finer where it is fine", async () => {
    const check = (part: object) => ({
      id: String(Math.random()),
      started_at: "2026-11-20T10:00:00Z",
      ...part,
    });
    answers({
      ...base,
      "GET /api/v1/bench/ear-checks": [
        check({ kind: "pitch", threshold: 6.4, u: 1.2, unit: "cents" }),
        check({ kind: "level", threshold: 1.24, u: 0.31, unit: "db" }),
        check({ kind: "timing", threshold: null, u: null, unit: "ms" }),
      ],
    });
    shown(<StudentPage me={TEACHER} />, { at: "/students/3", path: "/students/:id" });
    const ear = await screen.findByRole("region", { name: "What they hear" });
    await waitFor(() => expect(ear.querySelectorAll("li")).toHaveLength(3));
    expect(ear.textContent).toContain("6 ± 1 cents");
    expect(ear.textContent).toContain("1.2 ± 0.3 dB");
    expect(ear.textContent).toContain("no threshold found");
  });
});

describe("a student's account and links", () => {
  const base = { "GET /api/v1/drills": [drill()], "GET /api/v1/guests/links": [] };

  it("begin with an invitation; the link is shown once, and whether it was mailed", async () => {
    answers({
      ...base,
      "POST /api/v1/students/{student_id}/invite": { link: "https://quay.example/join/x", sent: true },
    });
    shown(<People student={student()} me={TEACHER} />);
    fireEvent.change(screen.getByLabelText("E-mail address (may be left out)"), {
      target: { value: "oda@quay.example" },
    });
    fireEvent.click(screen.getByRole("button", { name: "Invite Oda" }));
    expect((await screen.findByTestId<HTMLInputElement>("link")).value).toBe("https://quay.example/join/x");
    expect(screen.getByText(/It was mailed too/)).toBeTruthy();
    expect(sent()[0]).toMatchObject({
      path: "/api/v1/students/3/invite",
      body: { email: "oda@quay.example" },
    });
  });

  it("offer a new password where there is an account", async () => {
    answers({
      ...base,
      "POST /api/v1/students/{student_id}/reset-link": { link: "https://quay.example/reset/x", sent: false },
    });
    shown(<People student={student({ account: "oda@quay.example" })} me={TEACHER} />);
    expect(screen.queryByRole("button", { name: "Invite Oda" })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "A link for a new password" }));
    expect(await screen.findByText(/Pass it on yourself/)).toBeTruthy();
  });

  it("ask who saw what only when it is opened", async () => {
    answers({ ...base, "GET /api/v1/audit": [] });
    const { container } = shown(<People student={student()} me={TEACHER} />);
    await waitFor(() => expect(asked("/api/v1/guests/links")).toHaveLength(1));
    expect(asked("/api/v1/audit")).toEqual([]);
    const details = container.querySelector("details") as HTMLDetailsElement;
    details.open = true;
    fireEvent(details, new Event("toggle"));
    expect(await screen.findByText("Nothing yet.")).toBeTruthy();
    expect(asked("/api/v1/audit")[0]?.query).toEqual({ student_id: "3" });
  });

  it("rename, and say which hand", async () => {
    answers({ ...base, "PUT /api/v1/students/{student_id}": student({ name: "Oda V." }) });
    shown(<People student={student()} me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Name and hand" }));
    const field = await screen.findByLabelText<HTMLInputElement>("Name");
    expect(field.value).toBe("Oda");
    fireEvent.change(field, { target: { value: "Oda V." } });
    fireEvent.click(screen.getByLabelText(/plays left-handed/));
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent()[0]?.body).toEqual({ name: "Oda V.", left_handed: true });
  });

  it("hand over to a colleague, and leave for the other students", async () => {
    answers({
      ...base,
      "GET /api/v1/colleagues": [
        { id: 1, name: "Ines", email: TEACHER.email, leads: true, students: 3 },
        { id: 2, name: "Bo", email: "bo@quay.example", leads: false, students: 0 },
      ],
      "POST /api/v1/students/{student_id}/hand-over": null,
    });
    const user = userEvent.setup();
    shown(<People student={student()} me={TEACHER} />, { at: "/students/3" });
    await user.click(screen.getByRole("button", { name: "Hand over to a colleague" }));
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Hand over" }).disabled).toBe(true);
    await waitFor(() =>
      expect(screen.getByRole<HTMLButtonElement>("combobox", { name: "To" }).disabled).toBe(false),
    );
    await user.click(screen.getByRole("combobox", { name: "To" }));
    await user.click(await screen.findByRole("option", { name: "Bo" }));
    await user.click(screen.getByRole("button", { name: "Hand over" }));
    expect(await screen.findByText("at /students")).toBeTruthy();
    expect(sent()[0]?.body).toEqual({ teacher_id: 2 });
  });

  it("say that somebody who teaches alone can hand over to nobody", async () => {
    answers({
      ...base,
      "GET /api/v1/colleagues": [{ id: 1, name: "Ines", email: TEACHER.email, leads: true, students: 3 }],
    });
    shown(<People student={student()} me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Hand over to a colleague" }));
    expect(await screen.findByText(/You teach alone in this studio/)).toBeTruthy();
  });

  it("delete for good only after the name was typed, and say what remains", async () => {
    answers({
      ...base,
      "GET /api/v1/students": [],
      "DELETE /api/v1/reports/students/{student_id}": { says: "A line without a name stays in the record." },
    });
    shown(<People student={student()} me={TEACHER} />, { at: "/students/3" });
    fireEvent.click(screen.getByRole("button", { name: "Delete for good" }));
    const dialog = within(await screen.findByRole("dialog"));
    const go = dialog.getByRole<HTMLButtonElement>("button", { name: "Delete for good" });
    expect(go.disabled).toBe(true);
    fireEvent.change(dialog.getByLabelText("Type Oda to go on"), { target: { value: "oda" } });
    expect(go.disabled).toBe(true);
    fireEvent.change(dialog.getByLabelText("Type Oda to go on"), { target: { value: " Oda " } });
    fireEvent.click(go);
    expect((await screen.findByTestId("remains")).textContent).toBe(
      "A line without a name stays in the record.",
    );
    fireEvent.click(screen.getByRole("button", { name: "Back to the students" }));
    expect(await screen.findByText("at /students")).toBeTruthy();
  });
});

describe("guest links", () => {
  it("are of a drill that is still in use, once the drills are there", async () => {
    const links: object[] = [];
    answers({
      "GET /api/v1/drills": [drill(), drill({ id: 8, title: "An old one", archived: true })],
      "GET /api/v1/guests/links": () => links,
      "POST /api/v1/guests/links": () => {
        const made = {
          id: "g1",
          student_id: 3,
          drill: "String 3: full bend at fret 7",
          made_at: "2026-11-26T10:00:00Z",
        };
        const link = {
          ...made,
          expires_at: "2026-12-10T10:00:00Z",
          used: false,
          link: "https://quay.example/guest/x",
        };
        links.push({ ...link, link: null });
        return link;
      },
      "DELETE /api/v1/guests/links/{link_id}": () => {
        links.pop();
        return null;
      },
    });
    const user = userEvent.setup();
    shown(<GuestLinks studentId={3} zone="UTC" />);
    const choice = screen.getByRole<HTMLButtonElement>("combobox");
    // A list that is still empty does not open: what comes later would not take the keys.
    expect(choice.disabled).toBe(true);
    await waitFor(() => expect(choice.disabled).toBe(false));
    await user.click(choice);
    expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toEqual([
      "String 3: full bend at fret 7",
    ]);
    await user.keyboard("{Enter}");
    await user.click(screen.getByRole("button", { name: "Make a link" }));
    expect((await screen.findByTestId<HTMLInputElement>("link")).value).toBe("https://quay.example/guest/x");
    expect(sent()[0]?.body).toEqual({ student_id: 3, drill_id: 7 });
    expect(await screen.findByText(/open until 10 Dec/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Take it back" }));
    await waitFor(() => expect(screen.queryByText(/open until/)).toBeNull());
  });
});

describe("a student's own takes", () => {
  it("say how each came out, or why not", async () => {
    const row = (id: string, part: object) => ({
      id,
      student_id: 3,
      student: "Oda",
      drill: `Drill ${id}`,
      state: "measured",
      played_at: "2026-11-26T18:00:00Z",
      ticks: null,
      summary: null,
      problem: null,
      ...part,
    });
    answers({
      "GET /api/v1/takes": [
        row("a", { summary: { clean: 3, asked: 4 } }),
        row("b", { state: "refused", problem: { code: "silent", detail: "Nothing is heard." } }),
        row("c", { state: "measuring" }),
      ],
    });
    shown(<TakesPage me={STUDENT} />);
    await screen.findByText("Drill a");
    const rows = screen.getByTestId("takes").querySelectorAll("li");
    expect([...rows].map((r) => r.lastElementChild?.textContent)).toEqual([
      "3 of 4",
      "not measured",
      "measuring",
    ]);
    expect(asked("/api/v1/takes")[0]?.query).toEqual({ student_id: "3", limit: "100" });
  });
});
