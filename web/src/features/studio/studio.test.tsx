import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { Archive } from "./Archive";
import { Colleagues } from "./Colleagues";
import { KeepingForm } from "./KeepingForm";
import { StudioPage } from "./StudioPage";

const INES = { id: 1, name: "Ines", email: TEACHER.email, leads: true, students: 3 };
const BO = { id: 2, name: "Bo", email: "bo@quay.example", leads: false, students: 1 };
const MEMBER = { ...TEACHER, leads: false, email: BO.email, name: "Bo" };

describe("the teachers of a studio", () => {
  it("are told apart, and only who leads may do anything, and not to themselves", async () => {
    answers({ "GET /api/v1/colleagues": [INES, BO] });
    const { unmount } = shown(<Colleagues me={TEACHER} />);
    await screen.findByText("Bo");
    const list = screen.getByTestId("colleagues");
    expect(list.textContent).toContain("Ines, leads");
    expect(list.textContent).toContain("1 student");
    expect(within(list).getAllByRole("button", { name: "Leaves" })).toHaveLength(1);
    unmount();
    shown(<Colleagues me={MEMBER} />);
    await screen.findByText("Bo");
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("get a new password by a link that is shown once", async () => {
    answers({
      "GET /api/v1/colleagues": [INES, BO],
      "POST /api/v1/colleagues/{user_id}/reset-link": { link: "https://quay.example/reset/x", sent: false },
    });
    shown(<Colleagues me={TEACHER} />);
    fireEvent.click(await screen.findByRole("button", { name: "New password" }));
    expect((await screen.findByTestId<HTMLInputElement>("link")).value).toBe("https://quay.example/reset/x");
    expect(sent()[0]?.path).toBe("/api/v1/colleagues/2/reset-link");
  });

  it("are given the lead only after a question, because it cannot be taken back", async () => {
    let leads = 1;
    answers({
      "GET /api/v1/colleagues": () => [
        { ...INES, leads: leads === 1 },
        { ...BO, leads: leads === 2 },
      ],
      "POST /api/v1/colleagues/{user_id}/lead": () => {
        leads = 2;
        return null;
      },
    });
    shown(<Colleagues me={TEACHER} />);
    fireEvent.click(await screen.findByRole("button", { name: "Give the lead" }));
    let dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByText(/Only they can give it back/)).toBeTruthy();
    fireEvent.click(dialog.getByRole("button", { name: "Keep it" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent()).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Give the lead" }));
    dialog = within(await screen.findByRole("dialog"));
    fireEvent.click(dialog.getByRole("button", { name: "Give the lead" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent()[0]?.path).toBe("/api/v1/colleagues/2/lead");
    expect(screen.getByTestId("colleagues").textContent).toContain("Bo, leads");
  });

  it("leave with their students going to somebody named", async () => {
    answers({
      "GET /api/v1/colleagues": [INES, BO],
      "POST /api/v1/colleagues/{user_id}/part": refused(400, "Say who teaches their students from now on."),
    });
    const user = userEvent.setup();
    shown(<Colleagues me={TEACHER} />);
    await user.click(await screen.findByRole("button", { name: "Leaves" }));
    await user.click(await screen.findByRole("button", { name: "Part" }));
    expect((await screen.findByRole("alert")).textContent).toBe(
      "Say who teaches their students from now on.",
    );
    expect(sent()[0]?.body).toEqual({ students_to: null });
    answers({ "POST /api/v1/colleagues/{user_id}/part": null });
    await user.click(screen.getByRole("combobox", { name: "Who teaches their students" }));
    // Not the one who leaves.
    expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toEqual(["Ines"]);
    await user.keyboard("{Enter}");
    await user.click(screen.getByRole("button", { name: "Part" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(sent()[1]).toMatchObject({ path: "/api/v1/colleagues/2/part", body: { students_to: 1 } });
  });
});

describe("the studio's page", () => {
  const audit = Array.from({ length: 15 }, (_, i) => ({
    at: `2026-11-26T10:${10 + i}:00Z`,
    who: "Bo",
    action: i === 0 ? "something_new" : "assigned",
    student: null,
    what: `drill ${i}`,
  }));
  const base = {
    "GET /api/v1/colleagues": [INES, BO],
    "GET /api/v1/invitations": [],
    "GET /api/v1/audit": audit,
  };

  it("shows the record in part first, and an action it does not know in plain words", async () => {
    answers(base);
    shown(<StudioPage me={TEACHER} />);
    const record = await screen.findByTestId("audit");
    expect(record.querySelectorAll("li")).toHaveLength(12);
    expect(record.textContent).toContain("Bo something new: drill 0");
    expect(record.textContent).toContain("Bo assigned: drill 1");
    fireEvent.click(screen.getByRole("button", { name: "Show all 15" }));
    expect(record.querySelectorAll("li")).toHaveLength(15);
  });

  it("leaves inviting, naming and the archive to who leads", async () => {
    answers(base);
    shown(<StudioPage me={MEMBER} />);
    await screen.findByText("Nobody is invited right now.");
    for (const name of ["Name and clock", "Archive"])
      expect(screen.queryByRole("region", { name })).toBeNull();
    expect(screen.queryByRole("button", { name: "Invite a teacher" })).toBeNull();
  });

  it("invites a teacher, with or without an address, and takes an invitation back", async () => {
    const open: object[] = [];
    answers({
      ...base,
      "GET /api/v1/invitations": () => open,
      "POST /api/v1/colleagues/invite": () => {
        open.push({
          id: "i1",
          email: "",
          student: null,
          role: "teacher",
          made_at: "2026-11-26T10:00:00Z",
          expires_at: "2026-12-10T10:00:00Z",
        });
        return { link: "https://quay.example/join/x", sent: false };
      },
      "DELETE /api/v1/invitations/{invitation_id}": () => {
        open.pop();
        return null;
      },
    });
    shown(<StudioPage me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Invite a teacher" }));
    expect((await screen.findByTestId<HTMLInputElement>("link")).value).toBe("https://quay.example/join/x");
    expect(screen.queryByText(/It was mailed too/)).toBeNull();
    expect(sent()[0]?.body).toEqual({ email: "" });
    const list = within(screen.getByRole("region", { name: "Open invitations" }));
    fireEvent.click(await list.findByRole("button", { name: "Take it back" }));
    expect(await list.findByText("Nobody is invited right now.")).toBeTruthy();
    expect(sent()[1]?.path).toBe("/api/v1/invitations/i1");
  });

  it("changes name and clock, and says what is no time zone", async () => {
    answers({
      ...base,
      "PUT /api/v1/studio": refused(400, "Quay/Side is no time zone; write it like Europe/Lisbon."),
    });
    shown(<StudioPage me={TEACHER} />);
    const form = within(screen.getByRole("region", { name: "Name and clock" }));
    fireEvent.change(form.getByLabelText("Time zone, like Europe/Lisbon"), {
      target: { value: "Quay/Side" },
    });
    fireEvent.click(form.getByRole("button", { name: "Save" }));
    expect((await form.findByRole("alert")).textContent).toMatch(/is no time zone/);
    expect(sent()[0]?.body).toEqual({ name: "Quayside", zone: "Quay/Side" });
  });

  it("says how long things are kept: months, or nothing for as long as somebody wants", async () => {
    answers({ "PUT /api/v1/studio/keeping": {} });
    shown(<KeepingForm />);
    const recordings = await screen.findByLabelText("Recordings");
    const save = screen.getByRole("button", { name: "Save" });
    for (const wrong of ["0", "1.5", "241", "a year"]) {
      fireEvent.change(recordings, { target: { value: wrong } });
      expect(save.hasAttribute("disabled")).toBe(true);
    }
    for (const [said, months] of [
      ["12", 12],
      [" ", null],
    ] as const) {
      fireEvent.change(recordings, { target: { value: said } });
      fireEvent.click(save);
      await waitFor(() =>
        expect(sent().at(-1)?.body).toEqual({ recordings_months: months, former_months: null }),
      );
    }
    expect(screen.getByRole("status").textContent).toBe("Saved.");
  });
});

describe("the archive", () => {
  const file = () => new File(["PK"], "studio.zip", { type: "application/zip" });

  function choose() {
    fireEvent.change(screen.getByTestId("archive-file"), { target: { files: [file()] } });
  }

  it("is taken out by a plain download", () => {
    shown(<Archive me={TEACHER} />);
    const link = screen.getByTestId("take-out");
    expect(link.getAttribute("href")).toBe("/api/v1/reports/archive");
    expect(link.hasAttribute("download")).toBe(true);
  });

  it("is read in, says what is there now, and everything shown is asked for anew", async () => {
    answers({ "POST /api/v1/reports/archive": { says: "3 students and 37 takes are here now." } });
    shown(<Archive me={TEACHER} />);
    choose();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Read one in" }).disabled).toBe(true);
    expect((await screen.findByTestId("restored")).textContent).toBe("3 students and 37 takes are here now.");
    expect(asked("/api/v1/reports/archive")).toEqual([]);
  });

  it("is refused with the server's sentence, after which another may be tried", async () => {
    answers({ "POST /api/v1/reports/archive": refused(400, "This file is no archive of a studio.") });
    shown(<Archive me={TEACHER} />);
    choose();
    expect((await screen.findByRole("alert")).textContent).toBe("This file is no archive of a studio.");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Read one in" }).disabled).toBe(false);
    answers({ "POST /api/v1/reports/archive": { says: "Done." } });
    choose();
    expect(await screen.findByTestId("restored")).toBeTruthy();
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("says so where the server does not answer", async () => {
    answers({ "POST /api/v1/reports/archive": () => Response.error() });
    shown(<Archive me={TEACHER} />);
    choose();
    expect((await screen.findByRole("alert")).textContent).toMatch(/does not answer/);
  });
});
