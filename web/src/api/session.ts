/** Signing in and out, passwords, the second step, sessions: the sign-in package's own addresses. */
import { csrfToken, Problem, problemFrom } from "./client";

const BASE = "/_allauth/browser/v1";
type Method = "GET" | "POST" | "PUT" | "DELETE";

interface Answer {
  status: number;
  ok: boolean;
  body: {
    data?: unknown;
    meta?: Record<string, unknown>;
    errors?: { code: string; message: string; param?: string }[];
  };
}

async function call(method: Method, path: string, body?: unknown): Promise<Answer> {
  let answer: Response;
  try {
    answer = await fetch(BASE + path, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    throw problemFrom(0, "");
  }
  const text = await answer.text();
  let parsed: Answer["body"] = {};
  try {
    parsed = JSON.parse(text) as Answer["body"];
  } catch {
    // an answer without a body
  }
  return { status: answer.status, ok: answer.ok, body: parsed };
}

function refuse(answer: Answer, otherwise: string): never {
  const first = answer.body.errors?.[0];
  if (answer.status === 429 || first?.code === "too_many_login_attempts")
    throw new Problem(
      429,
      "too_many_attempts",
      "Too many attempts. Wait five minutes, or ask for a new password: its link lets you in at once.",
    );
  throw new Problem(answer.status, first?.code ?? "refused", first?.message ?? otherwise);
}

/** Sign in; throws a Problem with a sentence. "code": a code of the second step is asked for. */
export async function signIn(email: string, password: string): Promise<"in" | "code"> {
  const answer = await call("POST", "/auth/login", { email, password });
  if (answer.ok || answer.status === 409) return "in";
  if (answer.status === 401) return "code";
  if (answer.status === 400 && answer.body.errors?.[0]?.code !== "too_many_login_attempts")
    throw new Problem(400, "wrong_credentials", "The e-mail address or the password is not right.");
  return refuse(answer, "Signing in did not work. Try again.");
}

export async function secondStep(code: string): Promise<void> {
  const answer = await call("POST", "/auth/2fa/authenticate", { code: code.replaceAll(" ", "") });
  if (!answer.ok) refuse(answer, "That code is not right. Codes change every half minute; try the next one.");
}

export async function signOut(): Promise<void> {
  // The answer is 401 by design: nobody is signed in any more.
  await call("DELETE", "/auth/session");
}

export async function askForReset(email: string): Promise<void> {
  const answer = await call("POST", "/auth/password/request", { email });
  if (!answer.ok) refuse(answer, "That did not work. Try again.");
}

/** Set a new password with the key of a link. */
export async function resetPassword(key: string, password: string): Promise<void> {
  const answer = await call("POST", "/auth/password/reset", { key, password });
  if (answer.ok || answer.status === 401) return; // set; 401 says that signing in comes next
  if (answer.body.errors?.[0]?.param === "key")
    throw new Problem(400, "link_over", "This link was used already or has run out. Ask for a new one.");
  refuse(answer, "The password was not taken. Choose a longer one.");
}

export async function changePassword(now: string, next: string): Promise<void> {
  const answer = await call("POST", "/account/password/change", {
    current_password: now,
    new_password: next,
  });
  if (!answer.ok) refuse(answer, "The password was not changed.");
}

/** Say the password once more, before anything of the second step is changed. */
export async function sayPassword(password: string): Promise<void> {
  const answer = await call("POST", "/auth/reauthenticate", { password });
  if (!answer.ok) refuse(answer, "The password is not right.");
}

export interface SecondStepState {
  on: boolean;
  /** Of a second step that is not set up yet: for the app on the telephone. */
  secret: string | null;
  address: string | null;
}

export async function secondStepState(): Promise<SecondStepState> {
  const answer = await call("GET", "/account/authenticators/totp");
  if (answer.ok) return { on: true, secret: null, address: null };
  const meta = answer.body.meta ?? {};
  return {
    on: false,
    secret: typeof meta.secret === "string" ? meta.secret : null,
    address: typeof meta.totp_url === "string" ? meta.totp_url : null,
  };
}

export async function turnOnSecondStep(code: string): Promise<string[]> {
  const answer = await call("POST", "/account/authenticators/totp", { code: code.replaceAll(" ", "") });
  if (!answer.ok)
    refuse(answer, "That code is not right. Look at the clock of the telephone, then try again.");
  return recoveryCodes();
}

export async function recoveryCodes(): Promise<string[]> {
  const answer = await call("GET", "/account/authenticators/recovery-codes");
  if (!answer.ok) refuse(answer, "The codes cannot be shown.");
  return (answer.body.data as { unused_codes?: string[] }).unused_codes ?? [];
}

export async function turnOffSecondStep(): Promise<void> {
  const answer = await call("DELETE", "/account/authenticators/totp");
  if (!answer.ok) refuse(answer, "It was not turned off.");
}

export interface SessionRow {
  id: number;
  created_at: number;
  ip: string;
  user_agent: string;
  is_current: boolean;
}

export async function sessions(): Promise<SessionRow[]> {
  const answer = await call("GET", "/auth/sessions");
  if (!answer.ok) refuse(answer, "The sessions cannot be shown.");
  return answer.body.data as SessionRow[];
}

export async function endSessions(ids: number[]): Promise<void> {
  const answer = await call("DELETE", "/auth/sessions", { sessions: ids });
  if (!answer.ok && answer.status !== 401) refuse(answer, "The session was not ended.");
}
