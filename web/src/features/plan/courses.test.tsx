import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { assignment, drill } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, refused, sent } from "~/testing/wire";
import { AssignDialog } from "./AssignDialog";
import { CourseDialog } from "./CourseDialog";

const part = (title: string, more: object = {}) => ({
  title,
  drill_id: 1,
  first_week: 1,
  last_week: 1,
  minutes: 3,
  days: 5,
  ...more,
});
const COURSE = {
  name: "bends_2",
  title: "Two weeks of bends",
  weeks: 2,
  about: "One technique.",
  done: "Clean.",
  parts: [part("Half bend"), part("Full bend", { last_week: 2 })],
};
const AT = "POST /api/v1/plans/courses/{name}" as const;

function begun(answer: unknown) {
  const closed: boolean[] = [];
  answers({ "GET /api/v1/plans/courses": [COURSE], [AT]: answer });
  shown(<CourseDialog studentId={3} today="2026-11-27" onClose={() => closed.push(true)} />);
  return closed;
}

describe("a course", () => {
  it("begins with what is ticked", async () => {
    const closed = begun({ made: 1, kept: [] });
    fireEvent.click(await screen.findByLabelText("Full bend"));
    fireEvent.click(screen.getByRole("button", { name: "Begin it" }));
    await waitFor(() => expect(closed).toEqual([true]));
    expect(sent()[0]).toMatchObject({
      path: "/api/v1/plans/courses/bends_2",
      body: { student_id: 3, begins: "2026-11-27", speed: "tempo_steps", leave_out: ["Full bend"] },
    });
  });

  it("cannot begin with nothing, and says its weeks", async () => {
    begun({ made: 0, kept: [] });
    const table = await screen.findByTestId("parts");
    expect(within(table).getByText("1 to 2")).toBeTruthy();
    for (const name of ["Half bend", "Full bend"]) fireEvent.click(screen.getByLabelText(name));
    expect((screen.getByRole("button", { name: "Begin it" }) as HTMLButtonElement).disabled).toBe(true);
  });

  it("names what was in the plan already before it closes", async () => {
    const closed = begun({ made: 1, kept: ["Half bend"] });
    fireEvent.click(await screen.findByRole("button", { name: "Begin it" }));
    expect(await screen.findByText(/stay as they are: Half bend/)).toBeTruthy();
    expect(closed).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Good" }));
    expect(closed).toEqual([true]);
  });

  it("says why it was refused", async () => {
    const closed = begun(refused(422, "Oda works on every drill of this course already."));
    fireEvent.click(await screen.findByRole("button", { name: "Begin it" }));
    expect((await screen.findByRole("alert")).textContent).toContain("every drill of this course");
    expect(closed).toEqual([]);
  });
});

describe("a drill with a partner", () => {
  const up = drill({ id: 7, title: "Scale up", partner_id: 8 });
  const down = drill({ id: 8, title: "Scale down", partner_id: 7 });

  async function choose(running: ReturnType<typeof assignment>[] = []) {
    answers({
      "GET /api/v1/drills": [up, down],
      "POST /api/v1/plans/assignments": assignment({ id: 41 }),
    });
    shown(<AssignDialog studentId={3} running={running} open onClose={() => {}} />);
    fireEvent.click(await screen.findByText("Scale up"));
  }

  it("is assigned with it, as a pair", async () => {
    await choose();
    fireEvent.click(screen.getByRole("button", { name: "Assign it" }));
    await waitFor(() => expect(sent()).toHaveLength(2));
    const bodies = sent().map((s) => s.body as { drill_id: number; pair_id: number | null });
    expect(bodies.map((b) => [b.drill_id, b.pair_id])).toEqual([
      [7, null],
      [8, 41],
    ]);
  });

  it("goes alone where that is wished, or the other runs already", async () => {
    await choose();
    fireEvent.click(screen.getByLabelText(/the other way/));
    fireEvent.click(screen.getByRole("button", { name: "Assign it" }));
    await waitFor(() => expect(sent()).toHaveLength(1));
  });

  it("does not ask where the other runs already", async () => {
    await choose([assignment({ drill_id: 8 })]);
    expect(screen.queryByLabelText(/the other way/)).toBeNull();
  });
});
