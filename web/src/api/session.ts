import { csrfToken, Problem, problemFrom } from "./client";

const SESSION = "/_allauth/browser/v1/auth";

async function call(method: "POST" | "DELETE", path: string, body?: unknown): Promise<Response> {
  try {
    return await fetch(SESSION + path, {
      method,
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw problemFrom(0, "");
  }
}

/** Sign in; throws a Problem with a sentence. */
export async function signIn(email: string, password: string): Promise<void> {
  const answer = await call("POST", "/login", { email, password });
  if (answer.ok) return;
  const text = await answer.text();
  if (answer.status === 429 || text.includes("too_many_login_attempts")) {
    throw new Problem(429, "too_many_attempts", "Too many attempts. Wait five minutes, then try again.");
  }
  if (answer.status === 400) {
    throw new Problem(400, "wrong_credentials", "The e-mail address or the password is not right.");
  }
  if (answer.status === 409) return; // signed in already
  throw problemFrom(answer.status, text);
}

export async function signOut(): Promise<void> {
  // The answer is 401 by design: nobody is signed in any more.
  await call("DELETE", "/session");
}
