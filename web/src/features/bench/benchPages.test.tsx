import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { EarRead, TargetRead } from "~/api/client";
import { student } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { EarCheck } from "./EarCheck";
import { Targets } from "./Targets";

/** What was played, in its order; whether the browser lets it. */
let played: string[] = [];
let mayPlay = true;

beforeEach(() => {
  played = [];
  mayPlay = true;
  vi.stubGlobal(
    "Audio",
    class extends EventTarget {
      constructor(address: string) {
        super();
        played.push(address);
      }
      play() {
        return mayPlay ? Promise.resolve() : Promise.reject(new DOMException("no", "NotAllowedError"));
      }
      pause() {}
    },
  );
});

afterEach(() => vi.unstubAllGlobals());

function target(part: Partial<TargetRead> = {}): TargetRead {
  return {
    string: 3,
    fret: 7,
    bend_cents: 200,
    fretted_note: "D4",
    fretted_hz: 293.665,
    note: "E4",
    hz: 329.628,
    cents_off: 0,
    same_string_fret: 9,
    partners: [
      { string: 2, fret: 5 },
      { string: 1, fret: 0 },
    ],
    open_checks: [
      { string: 1, octaves: 0 },
      { string: 6, octaves: 2 },
    ],
    beats: [
      { cents: 5, beats_hz: 0.95 },
      { cents: 10, beats_hz: 1.91 },
    ],
    ...part,
  } as TargetRead;
}

describe("bend targets", () => {
  const base = {
    "GET /api/v1/guitars": [{ id: 5, name: "Blue", student: "Oda", kind: "solid", student_id: 3 }],
    "GET /api/v1/bench/target": target(),
    "GET /api/v1/bench/targets": [target({ fret: 6, hz: 311.127 }), target()],
  };

  it("say where the bend arrives, where else the pitch lies and which open string checks it", async () => {
    answers(base);
    shown(<Targets />, { at: "/bench/targets" });
    expect((await screen.findByTestId("target")).textContent).toBe("E4 329.63 Hz");
    expect(screen.getByText("string 1, open")).toBeTruthy();
    expect(screen.getByText("string 6: 2 octaves above")).toBeTruthy();
    expect(screen.getByText("string 1: the same pitch")).toBeTruthy();
    const row = within(screen.getByTestId("target-table"))
      .getByRole("rowheader", { name: "7" })
      .closest("tr");
    expect(row?.textContent).toContain("fret 9");
    expect(row?.textContent).toContain("1.91 /s");
    expect(row?.className).toContain("bg-corridor");
    // The answer is of what stands in the form, and the standard tuning is not sent.
    expect(asked("/api/v1/bench/target")[0]?.query).toEqual({ string: "3", fret: "7", bend_cents: "200" });
  });

  it("between the frets say that nothing sounds it", async () => {
    answers({
      ...base,
      "GET /api/v1/bench/target": target({
        cents_off: -50,
        same_string_fret: null,
        partners: [],
        open_checks: [],
      }),
    });
    shown(<Targets />, { at: "/bench/targets?bend=150" });
    expect((await screen.findByTestId("target")).textContent).toMatch(/^E4 −50 cents/);
    expect(screen.getByText("none: it lies between the frets")).toBeTruthy();
    expect(screen.getByText("none sounds it or its octave")).toBeTruthy();
  });

  it("begin as the address says, and say what is not on the neck", async () => {
    answers({
      ...base,
      "GET /api/v1/bench/target": refused(422, "Fret 40 is not on this guitar; it has 24."),
      "GET /api/v1/bench/targets": refused(422, "x"),
    });
    shown(<Targets />, { at: "/bench/targets?fret=40&guitar=5" });
    expect((await screen.findByRole("alert")).textContent).toBe("Fret 40 is not on this guitar; it has 24.");
    expect(screen.getByLabelText<HTMLInputElement>("Fret").value).toBe("40");
    expect(asked("/api/v1/bench/target")[0]?.query).toMatchObject({ fret: "40", guitar_id: "5" });
    // A guitar has its own tuning.
    expect(screen.queryByLabelText("Tuning, string 1 first")).toBeNull();
    expect(screen.queryByTestId("target")).toBeNull();
  });

  it("are heard one at a time", async () => {
    answers(base);
    shown(<Targets />, { at: "/bench/targets" });
    const hear = await screen.findByRole("button", { name: "Hear the target" });
    fireEvent.click(hear);
    expect(hear.getAttribute("aria-pressed")).toBe("true");
    const fretted = screen.getByRole("button", { name: "Hear the fretted note" });
    fireEvent.click(fretted);
    expect(hear.getAttribute("aria-pressed")).toBe("false");
    fireEvent.click(fretted);
    expect(fretted.getAttribute("aria-pressed")).toBe("false");
    expect(played).toEqual([
      "/api/v1/bench/tone?hz=329.628&seconds=3",
      "/api/v1/bench/tone?hz=293.665&seconds=3",
    ]);
  });

  it("say so where the browser does not play", async () => {
    mayPlay = false;
    answers(base);
    shown(<Targets />, { at: "/bench/targets" });
    fireEvent.click(await screen.findByRole("button", { name: "Hear the target" }));
    expect((await screen.findByRole("alert")).textContent).toMatch(/cannot play the tone/);
  });
});

describe("the ear check", () => {
  function check(part: Partial<EarRead> = {}): EarRead {
    return {
      id: 12,
      kind: "pitch",
      student_id: 3,
      started_at: "2026-11-26T10:00:00Z",
      answered: 0,
      turns: 0,
      finished: false,
      threshold: null,
      u: null,
      unit: "cents",
      reason: "",
      false_alarms: null,
      ...part,
    };
  }
  const at = { at: "/bench/ear?student=3", path: "/bench/ear" };
  const base = { "GET /api/v1/students": [student()] };

  async function begun() {
    shown(<EarCheck />, at);
    await waitFor(() =>
      expect(screen.getByRole<HTMLButtonElement>("combobox", { name: "Who listens" }).disabled).toBe(false),
    );
    fireEvent.click(screen.getByRole("button", { name: "Begin" }));
    await screen.findByText("Trial 1");
  }

  it("plays each trial once by itself, again on a key, and takes answers by keys", async () => {
    let answered = 0;
    answers({
      ...base,
      "POST /api/v1/bench/ear-checks": check(),
      "POST /api/v1/bench/ear-checks/{check_id}/answers": () => {
        answered += 1;
        return check({ answered });
      },
    });
    await begun();
    fireEvent.keyDown(window, { key: "r" });
    fireEvent.keyDown(window, { key: "3" });
    await screen.findByText("Trial 2");
    fireEvent.click(screen.getByRole("button", { name: /^the same/ }));
    await screen.findByText("Trial 3");
    // A key that belongs to the browser is no answer.
    fireEvent.keyDown(window, { key: "1", ctrlKey: true });
    const sound = (trial: number) => `/api/v1/bench/ear-checks/12/sound?trial=${trial}`;
    expect(played).toEqual([sound(0), sound(0), sound(1), sound(2)]);
    expect(sent().map((s) => s.body)).toEqual([
      { student_id: 3, kind: "pitch" },
      { number: 0, said: "over" },
      { number: 1, said: "same" },
    ]);
  });

  it.each([
    [
      check({ finished: true, answered: 40, threshold: 6.42, u: 1.2, false_alarms: 0.25 }),
      /^6\.4 ± 1\.2 cents.*from 40 trials.*nothing was: 25 %/,
    ],
    [
      check({ finished: true, answered: 60, reason: "beyond_range" }),
      /No difference offered here was told reliably/,
    ],
    [check({ finished: true, answered: 60, reason: "unsettled" }), /The answers did not settle/],
  ])("ends with what it found, or why nothing", async (last, says) => {
    answers({
      ...base,
      "POST /api/v1/bench/ear-checks": check(),
      "POST /api/v1/bench/ear-checks/{check_id}/answers": last,
    });
    await begun();
    fireEvent.keyDown(window, { key: "1" });
    expect((await screen.findByTestId("ear-result")).textContent).toMatch(says);
    expect(screen.getByRole("button", { name: "Begin" })).toBeTruthy();
  });

  it("is left without a trace, also when the server does not take an answer", async () => {
    answers({
      ...base,
      "POST /api/v1/bench/ear-checks": check(),
      "POST /api/v1/bench/ear-checks/{check_id}/answers": refused(
        409,
        "This trial was answered in another tab.",
      ),
    });
    await begun();
    fireEvent.keyDown(window, { key: "2" });
    expect((await screen.findByRole("alert")).textContent).toContain("answered in another tab");
    fireEvent.click(screen.getByRole("button", { name: "Stop here; nothing is kept" }));
    expect(screen.getByRole("button", { name: "Begin" })).toBeTruthy();
    expect(screen.queryByTestId("ear-result")).toBeNull();
  });

  it("asks in the words of its kind", async () => {
    answers({ ...base, "POST /api/v1/bench/ear-checks": check({ kind: "timing", unit: "ms" }) });
    const user = userEvent.setup();
    shown(<EarCheck />, at);
    await user.click(await screen.findByRole("combobox", { name: "To what" }));
    await user.click(await screen.findByRole("option", { name: "On the click" }));
    await user.click(screen.getByRole("button", { name: "Begin" }));
    expect(await screen.findByText(/early, on it, or late/)).toBeTruthy();
    expect(sent()[0]?.body).toEqual({ student_id: 3, kind: "timing" });
  });
});
