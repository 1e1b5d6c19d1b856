import { fireEvent, render, screen } from "@testing-library/react";
import { MemoryRouter, Route, Routes } from "react-router";
import { describe, expect, it } from "vitest";
import type { Series } from "~/api/week";
import { drill, student, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers } from "~/testing/wire";
import { BendMap } from "./BendMap";
import { Chart } from "./Chart";
import { ProgressPage } from "./ProgressPage";
import { SetProgress } from "./SetProgress";

const SERIES = {
  key: "bend_error",
  title: "Bend error",
  unit: "cents",
  wanted: "zero",
  limit: 15,
  trend: null,
  says: "Better by 7.4 ± 3 cents a week, over 7 takes.",
  points: [-40, 4].map((value, i) => ({
    take_id: `t${i}`,
    played_at: `2026-11-1${i}T19:00:00Z`,
    core_version: i === 0 ? "0.1" : "0.2",
    bpm: 66,
    per_click: null,
    guitar_id: 1,
    setup_take_id: null,
    value,
    u: 2,
  })),
} as Series;

describe("a chart of progress", () => {
  it("says its trend, marks versions and set-ups, and leads to takes by keyboard", () => {
    const setUps = [{ at: "2026-11-10T20:00:00Z", take_id: "s", guitar: "Blue solid-body" }];
    render(
      <MemoryRouter>
        <Routes>
          <Route path="/" element={<Chart series={SERIES} setUps={setUps} zone="UTC" />} />
          <Route path="/takes/:id" element={<p>the sheet</p>} />
        </Routes>
      </MemoryRouter>,
    );
    expect(screen.getByTestId("trend").textContent).toBe(SERIES.says);
    expect(screen.getByText("measured by 0.2 from here")).toBeTruthy();
    expect(screen.getByTestId("set-up-change").textContent).toContain("Blue solid-body");
    const points = screen.getAllByRole("link");
    expect(points.map((p) => p.getAttribute("aria-label"))).toEqual([
      "−40 cents, open the take",
      "4.0 cents, open the take",
    ]);
    fireEvent.keyDown(points[0] as Element, { key: "Enter" });
    expect(screen.getByText("the sheet")).toBeTruthy();
  });
});

describe("bends by place", () => {
  it("are told by string and fret, each target by itself", () => {
    const place = { takes: 2, count: 8, u: 1.5 };
    render(
      <BendMap
        places={[
          { string: 3, fret: 7, target_cents: 200, error_cents: -17, ...place },
          { string: 2, fret: 8, target_cents: 200, error_cents: 0.4, ...place },
          { string: 4, fret: 9, target_cents: 100, error_cents: 12, ...place },
        ]}
      />,
    );
    expect(screen.getByText("half bend")).toBeTruthy();
    expect(screen.getByText("full bend")).toBeTruthy();
    expect(screen.getByLabelText(/string 3 fret 7: −17 cents/)).toBeTruthy();
    // What is within its uncertainty has no colour of its own.
    expect(screen.getByText("0").getAttribute("fill")).toBe("var(--ink-soft)");
    expect(screen.getByText("−17").getAttribute("fill")).toBe("var(--under)");
  });
});

describe("a set", () => {
  it("is followed drill by drill, each take a way to its sheet", () => {
    const take = (id: string, percent: number) => ({
      take_id: id,
      played_at: "2026-11-10T19:00:00Z",
      percent,
    });
    render(
      <MemoryRouter>
        <SetProgress
          zone="UTC"
          members={[
            { title: "position 5", takes: [take("a", 25), take("b", 99.6)] },
            { title: "position 6", takes: [take("b", 100)] },
          ]}
        />
      </MemoryRouter>,
    );
    expect(screen.getAllByRole("link").map((l) => l.getAttribute("href"))).toEqual(["/takes/a", "/takes/b"]);
    const rows = screen.getAllByRole("row").slice(1);
    expect(rows.map((r) => r.textContent)).toEqual(["position 525100", "position 6100"]);
  });
});

describe("the drills", () => {
  it("are pictures on one scale with what they conclude, each a way to its page", async () => {
    const share = (take_id: string, percent: number, low: number, high: number) => ({
      take_id,
      played_at: "2026-11-10T19:00:00Z",
      core_version: "0.4.2",
      percent,
      low,
      high,
    });
    const row = {
      drill_id: 7,
      drill: "String 3: full bend at fret 7",
      family: "fretted_then_bend",
      takes: 2,
      first: "2026-11-10T19:00:00Z",
      last: "2026-11-12T19:00:00Z",
      shares: [share("a", 50, 35, 65), share("b", 90, 77, 94)],
      clean_bpm: 66.2,
      says: "Better than at first.",
    };
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/drills": [drill()],
      "GET /api/v1/reports/overview": {
        drills: [
          row,
          { ...row, drill_id: 8, drill: "Another", shares: [], says: "", clean_bpm: null, takes: 1 },
        ],
        bends: [],
        voice: [],
        set_ups: [],
      },
    });
    shown(<ProgressPage me={TEACHER} />, { at: "/students/3/progress", path: "/students/:id/progress" });
    const link = await screen.findByRole("link", { name: row.drill });
    expect(link.getAttribute("href")).toBe("/students/3/progress/7");
    const [first, second] = screen.getByRole("region", { name: "Drills" }).querySelectorAll("li");
    expect(first?.textContent).toContain(
      "90 %77 to 94Better than at first. 2 takes, clean up to 66 bpm, last 12 Nov",
    );
    expect(second?.textContent).toMatch(/^Another\s*1 take, last/);
  });
});
