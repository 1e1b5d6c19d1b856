import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Me } from "~/api/client";
import type { Assignment, Plan } from "~/api/week";
import { Assignments } from "./Assignments";
import { HoldNote } from "./HoldNote";
import { LogDialog } from "./LogDialog";
import { TermsForm } from "./TermsForm";
import { fieldsFor } from "./terms.math";
import { WeekTable } from "./WeekTable";

const TEACHER = { role: "teacher", zone: "UTC" } as Me;
const STUDENT = { role: "student", zone: "UTC" } as Me;

function assignment(part: Partial<Assignment> = {}): Assignment {
  return {
    id: 1,
    student_id: 3,
    student: "Oda",
    drill_id: 7,
    drill: "String 3: full bend at fret 7",
    family: "fretted_then_bend",
    drill_archived: false,
    note: "",
    minutes: 4,
    days: 5,
    begins: "2026-11-01",
    ends: null,
    ended_at: null,
    pair_id: null,
    pair: null,
    sharing: "weaker",
    rule: { speed: "tempo_steps" },
    goal: null,
    step: { bpm: 66, per_click: null },
    step_words: "66 bpm",
    step_since: "2026-11-01T10:00:00Z",
    moves: "confirmed",
    standing: {
      move: "up",
      to: { bpm: 70, per_click: null },
      to_words: "70 bpm",
      says: "Up to 70 bpm.",
      takes: [],
    },
    newest_share: 1,
    ...part,
  } as Assignment;
}

function plan(part: Partial<Plan> = {}): Plan {
  const days = Array.from({ length: 7 }, (_, i) => ({
    day: `2026-11-${23 + i}`,
    minutes: i < 5 ? 4 : 0,
    available: 20,
    blocks: i < 5 ? [{ assignment_id: 1, minutes: 4, done: i === 0 ? 4 : 0, recorded: i === 0 ? 2 : 0 }] : [],
    left_out: i === 1 ? ["A scale"] : [],
    cautions: [],
  }));
  return {
    student_id: 3,
    student: "Oda",
    monday: "2026-11-23",
    today: "2026-11-26",
    days,
    assignments: [assignment()],
    hold: null,
    practice: { minutes: [20, 20, 20, 20, 20, 0, 0], at: "19:00:00", feed: false },
    ...part,
  } as Plan;
}

// Before anything is loaded: the client keeps the fetch it finds when it is made.
const wire = vi.hoisted(() => {
  const kept = { sent: [] as { path: string; body: unknown }[], status: 200 };
  const Native = globalThis.Request;
  globalThis.Request = class extends Native {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, document.baseURI) : input, init);
    }
  };
  globalThis.fetch = async (input) => {
    const request = input as Request;
    const text = await request.clone().text();
    kept.sent.push({ path: new URL(request.url).pathname, body: text ? JSON.parse(text) : null });
    const body =
      kept.status === 200 ? {} : { code: "changed_meanwhile", detail: "The proposal has changed: Stay." };
    return new Response(JSON.stringify(body), {
      status: kept.status,
      headers: { "Content-Type": "application/json" },
    });
  };
  return kept;
});

beforeEach(() => {
  wire.sent = [];
  wire.status = 200;
});

afterEach(() => {
  cleanup();
});

function shown(children: ReactNode) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter>{children}</MemoryRouter>
    </QueryClientProvider>,
  );
}

describe("assignments", () => {
  it("offer the teacher the step, with the sentence that was read", async () => {
    shown(<Assignments plan={plan()} me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Up to 70 bpm" }));
    await waitFor(() => expect(wire.sent[0]?.path).toBe("/api/v1/plans/assignments/1/confirm"));
    expect(wire.sent[0]?.body).toEqual({ says: "Up to 70 bpm." });
  });

  it("say what a refused confirmation was refused for", async () => {
    wire.status = 409;
    shown(<Assignments plan={plan()} me={TEACHER} />);
    fireEvent.click(screen.getByRole("button", { name: "Up to 70 bpm" }));
    expect((await screen.findByRole("alert")).textContent).toBe("The proposal has changed: Stay.");
  });

  it("are for a student to read and to record, at the step", () => {
    shown(<Assignments plan={plan()} me={STUDENT} />);
    expect(screen.queryByRole("button", { name: "Up to 70 bpm" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Terms" })).toBeNull();
    expect(screen.getByRole("link", { name: "Record" }).getAttribute("href")).toBe(
      "/record/7?student=3&bpm=66",
    );
  });

  it("say when their time is over, and what to do where there is none", () => {
    shown(<Assignments plan={plan({ assignments: [assignment({ ends: "2026-11-20" })] })} me={TEACHER} />);
    expect(screen.getByText(/its time is over/)).toBeTruthy();
    cleanup();
    shown(<Assignments plan={plan({ assignments: [] })} me={TEACHER} />);
    expect(screen.getByText(/Assign a drill/)).toBeTruthy();
  });
});

describe("the week", () => {
  it("shows each day's work, what was done and what had no room", () => {
    shown(<WeekTable plan={plan()} />);
    const days = screen.getByTestId("week").querySelectorAll("[data-day]");
    expect(days).toHaveLength(7);
    expect(days[0]?.textContent).toContain("4 min, 4 min done, 2 takes");
    expect(days[1]?.textContent).toContain("No room in 20 min: A scale");
    expect(days[3]?.textContent).toContain("Today");
    expect(days[6]?.textContent).toContain("free");
  });

  it("puts a day's work off to today or later, or leaves it out", async () => {
    shown(<WeekTable plan={plan()} />);
    const monday = screen.getByTestId("week").querySelector("[data-day='2026-11-23'] li button");
    fireEvent.click(monday as Element);
    const dialog = await screen.findByRole("dialog");
    expect(within(dialog).getByText(/nothing has to be made up for/)).toBeTruthy();
    expect(within(dialog).queryByRole("button", { name: /25 Nov/ })).toBeNull();
    fireEvent.click(within(dialog).getByRole("button", { name: "Today" }));
    await waitFor(() => expect(wire.sent[0]?.body).toEqual({ since: "2026-11-23", to: "2026-11-26" }));
  });
});

describe("discomfort", () => {
  it("says why ladders rest and who may let them go on", async () => {
    const hold = { since: "2026-11-26T10:00:00Z", text: "left wrist", says: "Discomfort was logged." };
    shown(<HoldNote hold={hold} studentId={3} teacher={false} />);
    expect(screen.getByTestId("hold").textContent).toContain("See a doctor");
    fireEvent.click(screen.getByRole("button"));
    await waitFor(() => expect(wire.sent[0]?.path).toBe("/api/v1/plans/hold/3/clear"));
  });

  it("is logged without minutes", async () => {
    shown(<LogDialog studentId={3} start={{ kind: "discomfort" }} onClose={() => {}} />);
    fireEvent.change(screen.getByLabelText("Where, and how"), { target: { value: "thumb" } });
    fireEvent.click(screen.getByRole("button", { name: "Stop here" }));
    await waitFor(() =>
      expect(wire.sent[0]?.body).toMatchObject({ kind: "discomfort", minutes: null, text: "thumb" }),
    );
  });
});

describe("terms", () => {
  it("of a free drill have no ladder", () => {
    shown(<TermsForm fields={fieldsFor(null)} onChange={() => {}} free others={[]} begins />);
    expect(screen.queryByText("How speed is gained")).toBeNull();
    expect(screen.getByLabelText("Days a week")).toBeTruthy();
  });
  it("say the rule in a line, and pair with what runs", () => {
    const change = vi.fn();
    shown(
      <TermsForm
        fields={fieldsFor(66)}
        onChange={change}
        free={false}
        others={[assignment()]}
        begins={false}
      />,
    );
    expect(
      screen.getByText(/Up after 3 clean takes in a row, down after 2 under 80 %, by 4 bpm/),
    ).toBeTruthy();
    expect(screen.queryByLabelText("Begins at")).toBeNull();
    fireEvent.change(screen.getByLabelText("A day"), { target: { value: "2.5" } });
    expect(change).toHaveBeenCalledWith({ minutes: "2.5" });
  });
});
