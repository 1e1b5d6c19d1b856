import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { ConsentRead, Keeping } from "~/api/consent";
import { STUDENT, student, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, sent } from "~/testing/wire";
import { goingWords } from "~/ui/Keeping";
import { AskToRecord } from "./AskToRecord";
import { EnterConsent } from "./EnterConsent";
import { GiveConsent } from "./GiveConsent";
import { WithdrawConsent } from "./WithdrawConsent";
import { agreedWords } from "./words";

const GIVEN: ConsentRead = {
  by: "guardian",
  name: "Runa Holt",
  way: "writing",
  to: "Recordings …",
  day: "2026-03-01",
  written_by: "Ada",
  written_at: "2026-03-02T10:00:00Z",
  withdrawn_at: null,
  withdrawn_by: "",
};

describe("agreeing on the page", () => {
  it("waits for who agrees, and for a guardian's name", async () => {
    const user = userEvent.setup();
    const agreed = vi.fn();
    shown(
      <GiveConsent
        student="Ove"
        words="What is agreed to."
        own
        pending={false}
        error={null}
        onAgree={agreed}
      />,
    );
    const agree = screen.getByRole("button", { name: "Agree" });
    expect(screen.getByTestId("agree-to").textContent).toBe("What is agreed to.");
    expect(agree.hasAttribute("disabled")).toBe(true);
    await user.click(screen.getByLabelText("I am a parent or guardian of Ove and agree"));
    expect(agree.hasAttribute("disabled")).toBe(true);
    await user.type(screen.getByLabelText("Your name"), "Runa Holt");
    await user.click(agree);
    expect(agreed).toHaveBeenLastCalledWith({ by: "guardian", name: "Runa Holt" });
    await user.click(screen.getByLabelText("I am of age and agree"));
    expect(screen.queryByLabelText("Your name")).toBeNull();
    await user.click(agree);
    expect(agreed).toHaveBeenLastCalledWith({ by: "student", name: "" });
  });
});

describe("what stands in place of the recorder", () => {
  it("lets a student agree, and a teacher only write down that somebody did", async () => {
    answers({
      "GET /api/v1/students/{student_id}/consent": { words: "To this.", current: null, before: [] },
      "POST /api/v1/students/{student_id}/consent": { words: "To this.", current: GIVEN, before: [] },
      "PUT /api/v1/students/{student_id}/consent": { words: "To this.", current: GIVEN, before: [] },
      "GET /api/v1/students": [],
    });
    const user = userEvent.setup();
    const first = shown(<AskToRecord student={student({ agreed: false })} me={STUDENT} />);
    await user.click(await screen.findByLabelText("I am of age and agree"));
    await user.click(screen.getByRole("button", { name: "Agree" }));
    await waitFor(() => expect(sent().map((s) => s.method)).toContain("POST"));
    first.unmount();
    shown(<AskToRecord student={student({ agreed: false })} me={TEACHER} />);
    expect(screen.queryByTestId("agree")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Enter consent" }));
    await user.click(await screen.findByLabelText("By word of mouth"));
    await user.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() =>
      expect(sent().find((s) => s.method === "PUT")?.body).toEqual({
        by: "student",
        way: "word",
        name: "",
        day: null,
      }),
    );
  });

  it("says that somebody has left, and asks nothing", () => {
    shown(<AskToRecord student={student({ left_at: "2026-05-01T08:00:00Z" })} me={TEACHER} />);
    expect(screen.getByTestId("has-left").textContent).toContain("Oda has left the studio");
    expect(screen.queryByRole("button")).toBeNull();
  });
});

describe("a statement for several", () => {
  it("names nobody and is in writing where guardians agreed", async () => {
    const user = userEvent.setup();
    const said = vi.fn();
    shown(
      <EnterConsent
        students={["Ove", "Pim"]}
        pending={false}
        error={null}
        onState={said}
        onClose={() => {}}
      />,
    );
    expect(screen.getByText("Consent to recording, 2 students")).toBeDefined();
    await user.click(screen.getByLabelText("A parent or guardian of each"));
    expect(screen.queryByLabelText("By word of mouth")).toBeNull();
    expect(screen.queryByLabelText("Their name")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(said).toHaveBeenCalledWith({ by: "guardian", way: "writing", name: "", day: null });
  });
});

describe("taking it back", () => {
  it("leaves recordings unless they are to go too", async () => {
    answers({
      "DELETE /api/v1/students/{student_id}/consent": { words: "", current: null, before: [] },
      "DELETE /api/v1/reports/students/{student_id}/recordings": { deleted: 3 },
    });
    const user = userEvent.setup();
    shown(<WithdrawConsent studentId={3} name="Oda" />);
    for (const [also, button, calls] of [
      [false, "Withdraw", 1],
      [true, "Withdraw and delete", 3],
    ] as const) {
      await user.click(screen.getByRole("button", { name: "Withdraw" }));
      const dialog = await screen.findByRole("dialog");
      if (also) await user.click(screen.getByRole("checkbox"));
      const buttons = [...dialog.querySelectorAll("button")];
      await user.click(buttons.find((b) => b.textContent === button) as HTMLElement);
      await waitFor(() => expect(sent().filter((s) => s.method === "DELETE")).toHaveLength(calls));
      await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    }
  });
});

describe("in words", () => {
  it("is who agreed, how and when", () => {
    expect(agreedWords(GIVEN)).toBe("Runa Holt, parent or guardian: in writing, 1 March 2026");
    expect(agreedWords({ ...GIVEN, by: "student", name: "Oda", way: "page" })).toMatch(
      /^Oda: on this page, /,
    );
  });

  it("is what is about to be deleted, and nothing where nothing is", () => {
    const none: Keeping = {
      recordings_months: 12,
      former_months: null,
      recordings: 0,
      recordings_from: null,
      former_students: [],
      former_from: null,
    };
    expect(goingWords(none, "UTC", false)).toEqual([]);
    const some = {
      ...none,
      recordings: 1,
      recordings_from: "2026-12-24T10:00:00Z",
      former_students: ["Ove", "Pim"],
      former_from: "2027-01-02T10:00:00Z",
    };
    const [first, second] = goingWords(some, "UTC", false);
    expect(first).toContain("1 recording will be deleted");
    expect(first).toContain("24");
    expect(second).toContain("everything of Ove, Pim, who left, will be deleted");
    expect(goingWords({ ...some, former_students: [] }, "UTC", true)[0]).toContain("1 of your recordings");
  });
});
