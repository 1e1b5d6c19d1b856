import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { assignment, plan, STUDENT, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, refused, sent } from "~/testing/wire";
import { Assignments } from "./Assignments";
import { HoldNote } from "./HoldNote";
import { LogDialog } from "./LogDialog";
import { TermsForm } from "./TermsForm";
import { fieldsFor } from "./terms.math";
import { WeekTable } from "./WeekTable";

describe("assignments", () => {
  it("offer the teacher the step, with the sentence that was read", async () => {
    answers({ "POST /api/v1/plans/assignments/{assignment_id}/confirm": {} });
    shown(<Assignments plan={plan()} me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Up to 70 bpm" }));
    await waitFor(() => expect(sent()[0]?.path).toBe("/api/v1/plans/assignments/1/confirm"));
    expect(sent()[0]?.body).toEqual({ says: "Up to 70 bpm." });
  });

  it("say what a refused confirmation was refused for", async () => {
    answers({
      "POST /api/v1/plans/assignments/{assignment_id}/confirm": refused(
        409,
        "The proposal has changed: Stay.",
      ),
    });
    shown(<Assignments plan={plan()} me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Up to 70 bpm" }));
    expect((await screen.findByRole("alert")).textContent).toBe("The proposal has changed: Stay.");
  });

  it("are for a student to read and to record, at the step", () => {
    shown(<Assignments plan={plan()} me={STUDENT} />);
    expect(screen.queryByRole("button", { name: "Up to 70 bpm" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Settings" })).toBeNull();
    expect(screen.getByRole("link", { name: "Record" }).getAttribute("href")).toBe(
      "/record/7?student=3&bpm=66",
    );
  });

  it("say when their time is over, and what to do where there is none", () => {
    shown(<Assignments plan={plan({ assignments: [assignment({ ends: "2026-11-20" })] })} me={TEACHER} />);
    expect(screen.getByText(/its time is over/)).toBeTruthy();
    cleanup();
    shown(<Assignments plan={plan({ assignments: [] })} me={TEACHER} />);
    expect(screen.getByText(/Assign a drill/)).toBeTruthy();
  });
});

describe("the week", () => {
  it("shows each day's work, what was done and what had no room", () => {
    shown(<WeekTable plan={plan()} />);
    const days = screen.getByTestId("week").querySelectorAll("[data-day]");
    expect(days).toHaveLength(7);
    expect(days[0]?.textContent).toContain("4 min, 4 min done, 2 takes");
    expect(days[1]?.textContent).toContain("No room in 20 min: A scale");
    expect(days[3]?.textContent).toContain("Today");
    expect(days[6]?.textContent).toContain("free");
  });

  it("puts a day's work off to today or later, or leaves it out", async () => {
    answers({ "POST /api/v1/plans/assignments/{assignment_id}/shift": {} });
    shown(<WeekTable plan={plan()} />);
    const monday = screen.getByTestId("week").querySelector("[data-day='2026-11-23'] li button");
    fireEvent.click(monday as Element);
    const dialog = await screen.findByRole("dialog");
    expect(within(dialog).getByText(/nothing has to be made up for/)).toBeTruthy();
    expect(within(dialog).queryByRole("button", { name: /25 Nov/ })).toBeNull();
    fireEvent.click(within(dialog).getByRole("button", { name: "Today" }));
    await waitFor(() => expect(sent()[0]?.body).toEqual({ since: "2026-11-23", to: "2026-11-26" }));
  });
});

describe("discomfort", () => {
  it("says why ladders rest and who may let them go on", async () => {
    answers({ "POST /api/v1/plans/hold/{student_id}/clear": {} });
    const hold = { since: "2026-11-26T10:00:00Z", text: "left wrist", says: "Discomfort was logged." };
    shown(<HoldNote hold={hold} studentId={3} teacher={false} />);
    expect(screen.getByTestId("hold").textContent).toContain("See a doctor");
    fireEvent.click(screen.getByRole("button"));
    await waitFor(() => expect(sent()[0]?.path).toBe("/api/v1/plans/hold/3/clear"));
  });

  it("is logged without minutes", async () => {
    answers({ "POST /api/v1/plans/log": {} });
    shown(<LogDialog studentId={3} start={{ kind: "discomfort" }} onClose={() => {}} />);
    fireEvent.change(screen.getByLabelText("Where, and how"), { target: { value: "thumb" } });
    fireEvent.click(screen.getByRole("button", { name: "Stop here" }));
    await waitFor(() =>
      expect(sent()[0]?.body).toMatchObject({ kind: "discomfort", minutes: null, text: "thumb" }),
    );
  });
});

describe("terms", () => {
  it("of a free drill have no ladder", () => {
    shown(<TermsForm fields={fieldsFor(null)} onChange={() => {}} free others={[]} begins />);
    expect(screen.queryByText("How speed is gained")).toBeNull();
    expect(screen.getByLabelText("Days a week")).toBeTruthy();
  });
  it("say the rule in a line, and pair with what runs", () => {
    const change = vi.fn();
    shown(
      <TermsForm
        fields={fieldsFor(66)}
        onChange={change}
        free={false}
        others={[assignment()]}
        begins={false}
      />,
    );
    expect(
      screen.getByText(/Up after 3 clean takes in a row, down after 2 under 80 %, by 4 bpm/),
    ).toBeTruthy();
    expect(screen.queryByLabelText("Begins at")).toBeNull();
    fireEvent.change(screen.getByLabelText("A day"), { target: { value: "2.5" } });
    expect(change).toHaveBeenCalledWith({ minutes: "2.5" });
  });
});
