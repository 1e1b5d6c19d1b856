// @vitest-environment node
import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { putIn, sendAll, sendOne, takeOut, type Waiting, waiting } from "./outbox";

beforeEach(() => {
  vi.stubGlobal("document", { cookie: "" });
  vi.stubGlobal("navigator", {});
});

function take(id: string): Waiting {
  return {
    id,
    studentId: 1,
    drillId: 2,
    drillVersion: 3,
    guitarId: null,
    playedAt: "2026-11-25T04:00:00Z",
    name: "take.wav",
    click: '{"source":"recorder"}',
    capture: "{}",
    sound: new Blob(["RIFF"]),
    refused: null,
  };
}

const answers = (...list: (() => Response)[]) => {
  const asked: FormData[] = [];
  vi.stubGlobal("fetch", async (_: string, { body }: { body: FormData }) => {
    asked.push(body);
    const next = list.shift();
    if (!next) throw new TypeError("offline");
    return next();
  });
  return asked;
};
const made = (id: string) => () => new Response(JSON.stringify({ id }), { status: 201 });
const refused = (status: number) => () =>
  new Response(JSON.stringify({ code: "x", detail: "That drill is gone." }), { status });

afterEach(async () => {
  vi.unstubAllGlobals();
  for (const left of await waiting()) await takeOut(left.id);
});

describe("takes that wait to be sent", () => {
  it("leave the browser only when the server has them", async () => {
    await putIn(take("a"));
    answers();
    await expect(sendOne(take("a"))).rejects.toThrow("does not answer");
    expect(await waiting()).toHaveLength(1);
    const asked = answers(made("a"));
    expect((await sendOne(take("a"))).id).toBe("a");
    expect(await waiting()).toEqual([]);
    expect(asked[0]?.get("id")).toBe("a");
    expect(asked[0]?.get("drill_version")).toBe("3");
    expect(asked[0]?.get("click")).toContain("recorder");
    expect(asked[0]?.has("guitar_id")).toBe(false);
  });

  it("go out one after the other, and stay in order where the way is shut", async () => {
    for (const id of ["a", "b", "c"]) await putIn(take(id));
    answers(made("a"));
    expect(await sendAll()).toBe(1);
    expect((await waiting()).map((t) => t.id)).toEqual(["b", "c"]);
    answers(made("b"), made("c"));
    expect(await sendAll()).toBe(2);
    expect(await waiting()).toEqual([]);
  });

  it("that are refused for good stay, with the reason, and do not hold up the others", async () => {
    await putIn(take("a"));
    await putIn(take("b"));
    answers(refused(422), made("b"));
    expect(await sendAll()).toBe(1);
    expect((await waiting()).map((t) => [t.id, t.refused])).toEqual([["a", "That drill is gone."]]);
    answers();
    expect(await sendAll()).toBe(0);
  });

  it.each([401, 403, 429, 500, 503])("wait where status %s may pass", async (status) => {
    await putIn(take("a"));
    answers(refused(status));
    await expect(sendOne(take("a"))).rejects.toThrow();
    expect((await waiting())[0]?.refused).toBeNull();
  });
});
