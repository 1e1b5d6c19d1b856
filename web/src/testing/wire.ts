/** The server as a unit test wants it: answers by address, and what was sent to it. */
import { HttpResponse, http } from "msw";
import { setupServer } from "msw/node";
import type { paths } from "~/api/schema";

const NOTHING_GOES = {
  recordings_months: null,
  former_months: null,
  recordings: 0,
  recordings_from: null,
  former_students: [],
  former_from: null,
};

/** What pages ask by the way is answered with nothing unless a test says otherwise. */
export const network = setupServer(
  http.get("*/api/v1/drills", () => HttpResponse.json([])),
  http.get("*/api/v1/students", () => HttpResponse.json([])),
  http.get("*/api/v1/reports/keeping", () => HttpResponse.json(NOTHING_GOES)),
  http.get("*/api/v1/takes/again", () => HttpResponse.json([])),
  http.get("*/api/v1/takes/again/estimate", () =>
    HttpResponse.json({ takes: 0, minutes: 0, core_version: "0.4.3" }),
  ),
  http.get("*/api/v1/students/:id/consent", () =>
    HttpResponse.json({ words: "", current: null, before: [] }),
  ),
);

interface Sent {
  method: string;
  path: string;
  query: Record<string, string>;
  body: unknown;
}

let kept: Sent[] = [];

/** What was sent, reading left out, in its order. */
export function sent(): Sent[] {
  return kept.filter((s) => s.method !== "GET");
}

/** What was asked for. */
export function asked(path: string): Sent[] {
  return kept.filter((s) => s.method === "GET" && s.path === path);
}

export function forget(): void {
  kept = [];
}

class Refusal {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly code: string,
  ) {}
}

/** A refusal as the server says one. */
export function refused(status: number, detail: string, code = "refused"): Refusal {
  return new Refusal(status, detail, code);
}

type Method = "GET" | "POST" | "PUT" | "DELETE" | "PATCH";
type Place = `${Method} ${keyof paths & string}` | `${Method} /_allauth/${string}`;

/** Answer these addresses from now on; null is an answer without content, a function gets what was sent. */
export function answers(table: Partial<Record<Place, unknown>>): void {
  // As on the server, an address written out goes before one that names a part.
  const names = (place: string) => place.split("{").length;
  const places = Object.entries(table).sort(([a], [b]) => names(a) - names(b));
  network.use(
    ...places.map(([place, given]) => {
      const [method = "GET", path = ""] = place.split(" ");
      const verb = method.toLowerCase() as "get" | "post" | "put" | "delete" | "patch";
      return http[verb](`*${path.replaceAll(/\{(\w+)\}/g, ":$1")}`, async ({ request }) => {
        const url = new URL(request.url);
        const text = await request.text();
        const one: Sent = {
          method,
          path: url.pathname,
          query: Object.fromEntries(url.searchParams),
          body: text.startsWith("{") || text.startsWith("[") ? JSON.parse(text) : text || null,
        };
        kept.push(one);
        const answer: unknown = typeof given === "function" ? await given(one) : given;
        if (answer instanceof Refusal)
          return HttpResponse.json({ code: answer.code, detail: answer.detail }, { status: answer.status });
        if (answer instanceof Response) return answer;
        return answer === null
          ? new HttpResponse(null, { status: 204 })
          : HttpResponse.json(answer as object);
      });
    }),
  );
}
