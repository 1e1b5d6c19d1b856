import "fake-indexeddb/auto";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { putUnnamed, unnamed } from "~/lib/unnamed";
import { assignment, drill, STUDENT, student, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers } from "~/testing/wire";
import { ChooseDrill } from "./ChooseDrill";
import { found, recent } from "./choose.math";

const BEND = drill();
const SWEEP = drill({ id: 8, title: "Sweep in A", family: "sweep", tags: ["picking"], level: 2 });
const OLD = drill({ id: 9, title: "Sweep of old", family: "sweep", archived: true });

function take(id: string, drillId: number, played: string, who = 3) {
  return { id, drill_id: drillId, student_id: who, student: `S${who}`, played_at: played, state: "measured" };
}

describe("what is offered to record", () => {
  it("are the drills of the newest takes, each once a student, none that is archived", () => {
    const takes = [
      take("a", 7, "2026-11-20T10:00:00Z"),
      take("b", 8, "2026-11-22T10:00:00Z"),
      take("c", 7, "2026-11-21T10:00:00Z"),
      take("d", 9, "2026-11-23T10:00:00Z"),
      take("e", 7, "2026-11-19T10:00:00Z", 4),
    ] as never;
    const byId = new Map([BEND, SWEEP, OLD].map((d) => [d.id, d]));
    expect(recent(takes, byId, 6).map((o) => [o.drill.id, o.to])).toEqual([
      [8, "/record/8?student=3"],
      [7, "/record/7?student=3"],
      [7, "/record/7?student=4"],
    ]);
    expect(recent(takes, byId, 1)).toHaveLength(1);
  });

  it("are found by every word, in title, family or tags", () => {
    const all = [BEND, SWEEP, OLD];
    expect(found(all, "sweep A", 9).map((d) => d.id)).toEqual([8]);
    expect(found(all, "PICKING", 9).map((d) => d.id)).toEqual([8]);
    expect(found(all, "fretted", 9).map((d) => d.id)).toEqual([7]);
    expect(found(all, "  ", 9)).toEqual([]);
    expect(found(all, "tuba", 9)).toEqual([]);
  });
});

describe("the recorder without a drill", () => {
  const base = {
    "GET /api/v1/drills": [BEND, SWEEP, OLD],
    "GET /api/v1/students": [student()],
    "GET /api/v1/takes": [],
  };

  it("has today's drills first for a student, at their step", async () => {
    const a = assignment({ step: { bpm: 72, per_click: null } });
    answers({
      ...base,
      "GET /api/v1/plans/week": {
        today: "2026-11-26",
        days: [
          {
            day: "2026-11-26",
            minutes: 5,
            blocks: [{ assignment_id: a.id, minutes: 5, done: 0, recorded: 0 }],
          },
        ],
        assignments: [a],
      },
    });
    shown(<ChooseDrill me={STUDENT} />);
    const today = within(await screen.findByRole("region", { name: "Today" }));
    expect(today.getByRole("link").getAttribute("href")).toBe("/record/7?student=3&bpm=72");
    expect(today.getByTestId("shape")).toBeTruthy();
  });

  it("finds a drill as one types, and says what to try where there is none", async () => {
    answers({ ...base, "GET /api/v1/takes": [take("a", 7, "2026-11-20T10:00:00Z")] });
    const user = userEvent.setup();
    shown(<ChooseDrill me={TEACHER} />);
    expect(await screen.findByRole("region", { name: "Recorded last" })).toBeTruthy();
    await user.type(screen.getByRole("searchbox"), "sweep");
    const hits = within(screen.getByRole("region", { name: "Drills with “sweep”" }));
    expect(hits.getAllByRole("link").map((l) => l.getAttribute("href"))).toEqual(["/record/8"]);
    await user.type(screen.getByRole("searchbox"), "xx");
    expect(screen.getByText(/No drill has that in its name/)).toBeTruthy();
  });

  it("shows what was recorded and not named yet, and deletes it only after asking", async () => {
    await putUnnamed({
      id: "u1",
      madeAt: "2026-11-26T18:00:00Z",
      seconds: 67,
      capture: "{}",
      sound: new Blob(["RIFF"]),
    });
    answers(base);
    const user = userEvent.setup();
    shown(<ChooseDrill me={TEACHER} />);
    const list = within(await screen.findByTestId("unnamed"));
    expect(list.getByText("1:07")).toBeTruthy();
    await user.click(list.getByRole("button", { name: "Delete" }));
    expect(await unnamed()).toHaveLength(1);
    await user.click(await screen.findByRole("button", { name: "Delete it" }));
    await waitFor(async () => expect(await unnamed()).toHaveLength(0));
    await waitFor(() => expect(screen.queryByTestId("unnamed")).toBeNull());
  });
});
