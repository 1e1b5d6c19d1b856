import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem } from "./client";
import { askForReset, endSessions, resetPassword, secondStep, secondStepState, signIn } from "./session";

function answers(status: number, body: unknown = {}) {
  const fetched = vi.fn(async () => new Response(status === 204 ? null : JSON.stringify(body), { status }));
  vi.stubGlobal("fetch", fetched);
  return fetched;
}

async function problemOf(act: Promise<unknown>): Promise<Problem> {
  try {
    await act;
  } catch (error) {
    if (error instanceof Problem) return error;
  }
  throw new Error("no problem");
}

afterEach(() => vi.unstubAllGlobals());

describe("signing in", () => {
  it("is done, or asks for the second step", async () => {
    answers(200);
    expect(await signIn("a@a.example", "x")).toBe("in");
    answers(401, { data: { flows: [{ id: "mfa_authenticate", is_pending: true }] } });
    expect(await signIn("a@a.example", "x")).toBe("code");
    answers(409); // signed in already
    expect(await signIn("a@a.example", "x")).toBe("in");
  });

  it("says in a sentence why not", async () => {
    answers(400, { errors: [{ code: "email_password_mismatch", message: "x" }] });
    expect((await problemOf(signIn("a", "b"))).message).toBe(
      "The e-mail address or the password is not right.",
    );
    answers(400, { errors: [{ code: "too_many_login_attempts", message: "x" }] });
    expect((await problemOf(signIn("a", "b"))).code).toBe("too_many_attempts");
    answers(429);
    expect((await problemOf(signIn("a", "b"))).status).toBe(429);
    vi.stubGlobal("fetch", async () => {
      throw new TypeError("gone");
    });
    expect((await problemOf(signIn("a", "b"))).message).toMatch(/does not answer/);
  });

  it("takes codes as they are read aloud", async () => {
    const fetched = answers(200);
    await secondStep("123 456");
    const [, sent] = fetched.mock.calls[0] as unknown as [string, { body: string }];
    expect(JSON.parse(sent.body)).toEqual({ code: "123456" });
  });
});

describe("a new password", () => {
  it("is set where the answer asks to sign in", async () => {
    answers(401);
    await expect(resetPassword("key", "a long password")).resolves.toBeUndefined();
  });
  it("says that a link is over, or what is wrong with the password", async () => {
    answers(400, { errors: [{ param: "key", code: "invalid", message: "x" }] });
    expect((await problemOf(resetPassword("k", "p"))).code).toBe("link_over");
    answers(400, { errors: [{ param: "password", code: "too_short", message: "It is too short." }] });
    expect((await problemOf(resetPassword("k", "p"))).message).toBe("It is too short.");
  });
  it("can be asked for", async () => {
    const fetched = answers(200);
    await askForReset("a@a.example");
    expect(fetched).toHaveBeenCalledOnce();
  });
});

describe("the second step", () => {
  it("is on, or has a secret to be set up with", async () => {
    answers(200, { data: { type: "totp" } });
    expect(await secondStepState()).toEqual({ on: true, secret: null, address: null });
    answers(404, { meta: { secret: "ABC", totp_url: "otpauth://totp/x" } });
    expect(await secondStepState()).toEqual({ on: false, secret: "ABC", address: "otpauth://totp/x" });
  });
});

it("ending one's own session is no error", async () => {
  answers(401);
  await expect(endSessions([1])).resolves.toBeUndefined();
});
