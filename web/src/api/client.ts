import createClient, { type FetchResponse, type Middleware } from "openapi-fetch";
import type { MediaType, ResponseObjectMap, SuccessResponse } from "openapi-typescript-helpers";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Take = Schemas["TakeRead"];
export type TakeMeasured = Schemas["TakeMeasured"];
export type Note = Schemas["NoteFound"];
export type NoiseEvent = Schemas["NoiseEvent"];
export type BendFound = Schemas["BendFound"];
export type Verdict = Note["clean"];
export type Curves = Schemas["Curves"];
export type DrillRead = Schemas["DrillRead"];
export type DrillDetail = Schemas["DrillDetail"];
export type VersionRead = Schemas["VersionRead"];
export type DrillContent = DrillDetail["content"];
export type DrillEvent = DrillContent["events"][number];
export type VibratoFound = Schemas["VibratoFound"];
export type VoiceRow = Schemas["VoiceRow"];
export type VibratoAsked = NonNullable<DrillEvent["vibrato"]>;
export type GuitarRead = Schemas["GuitarRead"];
export type GuitarDetail = Schemas["GuitarDetail"];
export type GuitarContent = GuitarDetail["description"];
export type GuitarKind = GuitarContent["kind"];
export type StringPull = Schemas["StringPull"];
export type SetupRead = Schemas["SetupRead"];
export type SetupFound = Schemas["SetupFound"];
export type SetupString = SetupFound["strings"][number];
export type Hum = Schemas["Hum"];
export type BenchCalculator = Schemas["BenchCalculator"];
export type FormInput = Schemas["FormInput"];
export type GeneratorRead = Schemas["GeneratorRead"];
export type DrillForm = Schemas["DrillForm"];
export type DrillMade = Schemas["DrillMade"];
export type BenchAnswer = Schemas["BenchAnswer"];
export type TargetRead = Schemas["TargetRead"];
export type EarRead = Schemas["EarRead"];
export type EarKind = EarRead["kind"];
export type Hearing = Schemas["Hearing"];
export type Student = Schemas["StudentRead"];
export type Me = Schemas["Me"];
export type Mark = Schemas["Mark"];
export type MarkRead = Schemas["MarkRead"];
export type Pin = Schemas["Pin"];
export type DeskRead = Schemas["DeskRead"];
export type DeskRow = Schemas["DeskRow"];
export type TrialRead = Schemas["TrialRead"];
export type CompareRead = Schemas["CompareRead"];
export type Difference = Schemas["Difference"];

/** What the server says went wrong; `detail` is a sentence for people. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
  ) {
    super(detail);
  }
}

/** Whether something is there in a moment: a sheet comes before what it draws and plays. */
export const isStillWritten = (error: unknown) => error instanceof Problem && error.code === "not_drawn_yet";

const OFFLINE = "The server does not answer. Check that it is running, then try again.";

export function csrfToken(): string {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

/** A problem from an answer's text, whatever the server or something before it sent. */
export function problemFrom(status: number, text: string): Problem {
  try {
    const body = JSON.parse(text) as { code?: string; detail?: string };
    if (body.code && body.detail) return new Problem(status, body.code, body.detail);
  } catch {
    // not JSON: an answer that is not ours
  }
  return new Problem(
    status,
    "unexpected",
    status ? `The server answered with status ${status}. Try again.` : OFFLINE,
  );
}

const middleware: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return undefined;
    throw problemFrom(response.status, await response.text());
  },
  onError() {
    return new Problem(0, "offline", OFFLINE);
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(middleware);

/**
 * The data of an answer that was not a problem (problems are thrown), typed by the operation that was asked for. The
 * client's own type of the data turns tuples into arrays, so it is taken from the operation itself.
 */
// biome-ignore lint/suspicious/noExplicitAny: the client's own constraint on operations
export async function data<Operation extends Record<string | number, any>, Options, Media extends MediaType>(
  answer: Promise<FetchResponse<Operation, Options, Media>>,
): Promise<SuccessResponse<ResponseObjectMap<Operation>, Media>> {
  return (await answer).data as SuccessResponse<ResponseObjectMap<Operation>, Media>;
}
