import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { STUDENT, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { AccountPage } from "./AccountPage";
import { AddressPage } from "./AddressPage";
import { JoinPage } from "./JoinPage";
import { ResetPage } from "./ResetPage";
import { SecondStep } from "./SecondStep";
import { SignIn } from "./SignIn";

const ALLAUTH = "/_allauth/browser/v1";
const ok = () => Response.json({ status: 200 });

function typed(label: string | RegExp, text: string) {
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
}

function pressed(name: string | RegExp) {
  fireEvent.click(screen.getByRole("button", { name }));
}

async function alerted(): Promise<string> {
  return (await screen.findByRole("alert")).textContent ?? "";
}

describe("signing in", () => {
  it("sends what was typed, and says what was wrong without keeping the form shut", async () => {
    answers({
      [`POST ${ALLAUTH}/auth/login`]: () =>
        Response.json({ errors: [{ code: "email_password_mismatch", message: "x" }] }, { status: 400 }),
    });
    shown(<SignIn />);
    typed("E-mail address", "ines@quay.example");
    typed("Password", "a wrong one");
    pressed("Sign in");
    expect(await alerted()).toBe("The e-mail address or the password is not right.");
    expect(sent()[0]?.body).toEqual({ email: "ines@quay.example", password: "a wrong one" });
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Sign in" }).disabled).toBe(false);
  });

  it("asks for the second step where one is on, and goes back from it", async () => {
    answers({
      [`POST ${ALLAUTH}/auth/login`]: () => Response.json({ data: { flows: [] } }, { status: 401 }),
      [`POST ${ALLAUTH}/auth/2fa/authenticate`]: () => Response.json({ errors: [] }, { status: 400 }),
    });
    shown(<SignIn />);
    typed("E-mail address", "ines@quay.example");
    typed("Password", "a quiet mooring");
    pressed("Sign in");
    await screen.findByRole("heading", { name: "Two-factor sign-in" });
    typed("Code", "123 456");
    pressed("Go on");
    expect(await alerted()).toMatch(/^That code is not right/);
    expect(sent()[1]?.body).toEqual({ code: "123456" });
    pressed("Back");
    expect(screen.getByRole("heading", { name: "Sign in" })).toBeTruthy();
  });

  it("says whom to ask for a new password where no mail is sent", async () => {
    answers({ "GET /api/v1/welcome": { mail: false } });
    shown(<SignIn />);
    pressed("Password forgotten");
    expect(await screen.findByText(/This server sends no mail/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Send me a link" })).toBeNull();
  });

  it("never says whether there is an account", async () => {
    answers({ "GET /api/v1/welcome": { mail: true }, [`POST ${ALLAUTH}/auth/password/request`]: ok });
    shown(<SignIn />);
    pressed("Password forgotten");
    fireEvent.change(await screen.findByLabelText("E-mail address"), { target: { value: "who@x.example" } });
    pressed("Send me a link");
    expect((await screen.findByRole("status")).textContent).toMatch(/^If there is an account/);
    expect(screen.queryByRole("button", { name: "Send me a link" })).toBeNull();
  });
});

describe("an invitation", () => {
  const there = { email: "", role: "student", student: "Oda", studio: "Quayside", teacher: "Ines" };

  it("of a student begins with the name the teacher wrote, and says who sees the recordings", async () => {
    answers({
      "GET /api/v1/join/{token}": there,
      "POST /api/v1/join/{token}": refused(400, "This password is too common. Choose another."),
    });
    shown(<JoinPage />, { at: "/join/abc", path: "/join/:token" });
    const name = await screen.findByLabelText<HTMLInputElement>("Your name");
    expect(name.value).toBe("Oda");
    expect(screen.getByText(/seen by you and your teacher/)).toBeTruthy();
    typed("E-mail address", "oda@quay.example");
    typed(/^Password/, "password12");
    pressed("Begin");
    expect(await alerted()).toBe("This password is too common. Choose another.");
    expect(asked("/api/v1/join/abc")).toHaveLength(1);
    expect(sent()[0]).toMatchObject({
      path: "/api/v1/join/abc",
      body: { name: "Oda", email: "oda@quay.example", password: "password12" },
    });
    // What was typed is still there.
    expect(screen.getByLabelText<HTMLInputElement>("E-mail address").value).toBe("oda@quay.example");
  });

  it("of a teacher says nothing of recordings of theirs", async () => {
    answers({
      "GET /api/v1/join/{token}": { ...there, role: "teacher", student: null, email: "bo@x.example" },
    });
    shown(<JoinPage />, { at: "/join/abc", path: "/join/:token" });
    expect(await screen.findByText(/invites you to teach here/)).toBeTruthy();
    expect(screen.queryByText(/Your recordings/)).toBeNull();
    expect(screen.getByLabelText<HTMLInputElement>("E-mail address").value).toBe("bo@x.example");
  });

  it("that has run out says so instead of a form", async () => {
    answers({
      "GET /api/v1/join/{token}": refused(404, "This invitation is used or has run out. Ask for a new one."),
    });
    shown(<JoinPage />, { at: "/join/abc", path: "/join/:token" });
    expect(await alerted()).toMatch(/has run out/);
    expect(screen.queryByLabelText("Your name")).toBeNull();
  });
});

describe("a link for a new password", () => {
  it("sets it and leads to signing in", async () => {
    answers({ [`POST ${ALLAUTH}/auth/password/reset`]: () => Response.json({}, { status: 401 }) });
    shown(<ResetPage />, { at: "/reset/4-abc", path: "/reset/:key" });
    typed(/^Password/, "a quiet mooring");
    pressed("Set it");
    expect((await screen.findByRole("status")).textContent).toBe("It is set. Sign in with it.");
    expect(sent()[0]?.body).toEqual({ key: "4-abc", password: "a quiet mooring" });
    expect(screen.getByRole("link", { name: "Sign in" }).getAttribute("href")).toBe("/");
  });

  it("works once", async () => {
    answers({
      [`POST ${ALLAUTH}/auth/password/reset`]: () =>
        Response.json({ errors: [{ code: "invalid", param: "key", message: "x" }] }, { status: 400 }),
    });
    shown(<ResetPage />, { at: "/reset/4-abc", path: "/reset/:key" });
    typed(/^Password/, "a quiet mooring");
    pressed("Set it");
    expect(await alerted()).toMatch(/used already or has run out/);
  });
});

describe("the second step", () => {
  const off = () =>
    Response.json(
      { meta: { secret: "JBSW Y3DP", totp_url: "otpauth://totp/x?secret=JBSWY3DP" } },
      { status: 404 },
    );

  it("is turned on after the password, with the app's code, and the spare codes are shown once", async () => {
    let on = false;
    answers({
      [`GET ${ALLAUTH}/account/authenticators/totp`]: () => (on ? ok() : off()),
      [`POST ${ALLAUTH}/auth/reauthenticate`]: ok,
      [`POST ${ALLAUTH}/account/authenticators/totp`]: () => {
        on = true;
        return ok();
      },
      [`GET ${ALLAUTH}/account/authenticators/recovery-codes`]: {
        data: { unused_codes: ["11112222", "33334444"] },
      },
    });
    shown(<SecondStep />);
    expect((await screen.findByTestId("second-step")).textContent).toMatch(/^Off/);
    // The secret is for who has said the password.
    expect(screen.queryByText("JBSW Y3DP")).toBeNull();
    typed("Your password, to change it", "a quiet mooring");
    pressed("Go on");
    expect(await screen.findByText("JBSW Y3DP")).toBeTruthy();
    expect(screen.getByTitle("For the app")).toBeTruthy();
    typed("Code", "123 456");
    pressed("Turn it on");
    expect(await screen.findByText("33334444")).toBeTruthy();
    await waitFor(() => expect(screen.getByTestId("second-step").textContent).toMatch(/^On/));
    expect(sent().map((s) => s.body)).toEqual([{ password: "a quiet mooring" }, { code: "123456" }]);
  });

  it("stays shut behind a wrong password", async () => {
    answers({
      [`GET ${ALLAUTH}/account/authenticators/totp`]: ok,
      [`POST ${ALLAUTH}/auth/reauthenticate`]: () => Response.json({ errors: [] }, { status: 400 }),
    });
    shown(<SecondStep />);
    fireEvent.change(await screen.findByLabelText("Your password, to change it"), {
      target: { value: "no" },
    });
    pressed("Go on");
    expect(await alerted()).toBe("The password is not right.");
    expect(screen.queryByRole("button", { name: "Turn it off" })).toBeNull();
  });

  it("is turned off, and its codes go out of sight", async () => {
    let on = true;
    answers({
      [`GET ${ALLAUTH}/account/authenticators/totp`]: () => (on ? ok() : off()),
      [`POST ${ALLAUTH}/auth/reauthenticate`]: ok,
      [`GET ${ALLAUTH}/account/authenticators/recovery-codes`]: { data: { unused_codes: ["11112222"] } },
      [`DELETE ${ALLAUTH}/account/authenticators/totp`]: () => {
        on = false;
        return ok();
      },
    });
    shown(<SecondStep />);
    fireEvent.change(await screen.findByLabelText("Your password, to change it"), { target: { value: "x" } });
    pressed("Go on");
    fireEvent.click(await screen.findByRole("button", { name: "Show the spare codes" }));
    expect(await screen.findByText("11112222")).toBeTruthy();
    pressed("Turn it off");
    await waitFor(() => expect(screen.getByTestId("second-step").textContent).toMatch(/^Off/));
    expect(screen.queryByText("11112222")).toBeNull();
  });
});

describe("the account", () => {
  const sessions = {
    data: [
      {
        id: 1,
        created_at: 1_795_600_000,
        ip: "10.0.0.4",
        user_agent: "Mozilla Firefox/150 Linux",
        is_current: true,
      },
      {
        id: 2,
        created_at: 1_795_500_000,
        ip: "10.0.0.5",
        user_agent: "Chrome/150 Safari Android",
        is_current: false,
      },
      { id: 3, created_at: 1_795_400_000, ip: "10.0.0.6", user_agent: "x", is_current: false },
    ],
  };
  const base = {
    [`GET ${ALLAUTH}/account/authenticators/totp`]: ok,
    [`GET ${ALLAUTH}/auth/sessions`]: sessions,
  };

  it("shows where one is signed in, and signs out elsewhere but never here", async () => {
    answers({ ...base, [`DELETE ${ALLAUTH}/auth/sessions`]: ok });
    shown(<AccountPage me={TEACHER} />);
    const list = within(await screen.findByRole("region", { name: "Signed in" }));
    expect(await list.findByText("Firefox on Linux")).toBeTruthy();
    expect(list.getByText("Chrome on Android")).toBeTruthy();
    expect(list.getByText("A browser")).toBeTruthy();
    expect(list.getAllByRole("button", { name: "Sign out there" })).toHaveLength(2);
    fireEvent.click(list.getByRole("button", { name: "Sign out everywhere else" }));
    await waitFor(() => expect(sent()[0]?.body).toEqual({ sessions: [2, 3] }));
  });

  it("changes the password and empties the fields", async () => {
    answers({ ...base, [`POST ${ALLAUTH}/account/password/change`]: ok });
    shown(<AccountPage me={TEACHER} />);
    const change = screen.getByRole<HTMLButtonElement>("button", { name: "Change it" });
    expect(change.disabled).toBe(true);
    const user = userEvent.setup();
    await user.type(screen.getByLabelText("Now"), "a quiet mooring");
    await user.type(screen.getByLabelText("New, at least ten letters"), "a louder mooring{Enter}");
    expect(await screen.findByText("The password is changed.")).toBeTruthy();
    expect(sent()[0]?.body).toEqual({
      current_password: "a quiet mooring",
      new_password: "a louder mooring",
    });
    expect(screen.getByLabelText<HTMLInputElement>("Now").value).toBe("");
  });

  it("has a new address confirmed by a letter where letters are sent, and uses it at once elsewhere", async () => {
    for (const [mailed, says] of [
      [true, /^A letter is on its way to ines@new.example/],
      [false, /^From now on you sign in as ines@new.example/],
    ] as const) {
      answers({ ...base, "POST /api/v1/me/address": { mailed } });
      const page = shown(<AccountPage me={TEACHER} />);
      typed("New address", "ines@new.example");
      typed("Your password", "a quiet mooring");
      pressed("Change the address");
      expect(await screen.findByText(says)).toBeTruthy();
      expect(sent().at(-1)?.body).toEqual({ address: "ines@new.example", password: "a quiet mooring" });
      expect(screen.getByLabelText<HTMLInputElement>("Your password").value).toBe("");
      page.unmount();
    }
  });

  it("says why an address is not taken", async () => {
    answers({ ...base, "POST /api/v1/me/address": refused(403, "The password is not right.") });
    shown(<AccountPage me={TEACHER} />);
    typed("New address", "ines@new.example");
    typed("Your password", "guess");
    pressed("Change the address");
    expect(await alerted()).toContain("The password is not right.");
  });

  it("uses an address when its letter's link was opened and meant, once", async () => {
    answers({ "POST /api/v1/address/{token}": { address: "ines@new.example" } });
    shown(<AddressPage />, { at: "/address/abc", path: "/address/:token" });
    expect(sent()).toEqual([]);
    pressed("Use this address");
    expect(await screen.findByText("From now on you sign in as ines@new.example.")).toBeTruthy();
    expect(sent()[0]?.path).toBe("/api/v1/address/abc");
  });

  it("lets a student download everything about themselves", async () => {
    answers({ ...base, "GET /api/v1/audit": [] });
    shown(<AccountPage me={STUDENT} />);
    const link = await screen.findByRole("link", { name: "Download everything" });
    expect(link.getAttribute("href")).toBe("/api/v1/reports/own");
  });

  it("tells a student who looked, and a teacher on the studio's page instead", async () => {
    const row = { at: "2026-11-26T10:00:00Z", who: "Ines", action: "heard_take", student: "Oda", what: "" };
    answers({ ...base, "GET /api/v1/audit": [row] });
    const { unmount } = shown(<AccountPage me={STUDENT} />);
    expect((await screen.findByTestId("audit")).textContent).toContain("Ines listened to a take (Oda)");
    unmount();
    const before = asked("/api/v1/audit").length;
    shown(<AccountPage me={TEACHER} />);
    await screen.findByRole("region", { name: "Signed in" });
    expect(screen.queryByRole("region", { name: "Who looked" })).toBeNull();
    expect(asked("/api/v1/audit")).toHaveLength(before);
  });

  it("says where its parts cannot be read, and tries again", async () => {
    const failing = vi.fn(() => Response.json({ errors: [] }, { status: 500 }));
    answers({ ...base, [`GET ${ALLAUTH}/auth/sessions`]: failing });
    shown(<AccountPage me={TEACHER} />);
    expect(await alerted()).toMatch(/sessions cannot be shown/);
    fireEvent.click(screen.getByRole("button", { name: "Try again" }));
    await waitFor(() => expect(failing).toHaveBeenCalledTimes(2));
  });
});
