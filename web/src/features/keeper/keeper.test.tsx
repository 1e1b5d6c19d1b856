import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { KeeperRead } from "~/api/keeper";
import { TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { KeeperPage } from "./KeeperPage";
import { ageWords, jobWords } from "./keeper";

const KEEPER = { ...TEACHER, keeps: true };
const FAILED = {
  id: 3,
  kind: "takes.measure",
  subject: "11111111-2222-4333-8444-555555555555",
  asked_at: "2026-11-26T10:00:00Z",
  attempts: 3,
  problem: "Measuring broke off several times.",
};
const STATE: KeeperRead = {
  versions: { core: "0.4.3", MariaDB: "10.11.9" },
  problems: [],
  jobs: [
    { kind: "takes.measure", queue: "measure", state: "waiting", count: 4, oldest_s: 125 },
    { kind: "takes.measure", queue: "measure", state: "failed", count: 1, oldest_s: 900 },
  ],
  failed: [FAILED],
  room: { free: 42e9, total: 100e9, kept_free: 300e6, recordings: 7.25e9, takes: 1234 },
  backup: null,
  studios: 1,
  people: 9,
  students: 12,
};

describe("the server's page", () => {
  it("says what waits, what was given up and how much room there is", async () => {
    answers({ "GET /api/v1/keeper": STATE });
    shown(<KeeperPage me={KEEPER} />);
    const rows = within(await screen.findByRole("table")).getAllByRole("row");
    expect(rows).toHaveLength(2); // what was given up stands by itself
    expect(rows[1]?.textContent).toBe("Measuring a takewaiting42 min");
    expect(screen.getByText("42.0 GB of 100.0 GB")).toBeTruthy();
    expect(screen.getByText(/tried 3 times: Measuring broke off/)).toBeTruthy();
    expect(screen.getByText(/None was made yet/)).toBeTruthy();
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("has a job tried again, and forgets one", async () => {
    let failed = [FAILED, { ...FAILED, id: 4, kind: "takes.unknown" }];
    answers({
      "GET /api/v1/keeper": () => ({ ...STATE, failed }),
      "POST /api/v1/keeper/jobs/{job_id}/again": () => {
        failed = failed.filter((job) => job.id !== 3);
        return null;
      },
      "DELETE /api/v1/keeper/jobs/{job_id}": refused(409, "Somebody else was quicker."),
    });
    shown(<KeeperPage me={KEEPER} />);
    fireEvent.click((await screen.findAllByRole("button", { name: "Try again" }))[0] as HTMLElement);
    await waitFor(() => expect(screen.getAllByRole("button", { name: "Try again" })).toHaveLength(1));
    expect(sent()[0]?.path).toBe("/api/v1/keeper/jobs/3/again");
    fireEvent.click(screen.getByRole("button", { name: "Forget" }));
    expect(await screen.findByText("Somebody else was quicker.")).toBeTruthy();
  });

  it("says first what keeps the server from its work, and when a backup was made", async () => {
    answers({
      "GET /api/v1/keeper": {
        ...STATE,
        problems: ["The broker does not answer."],
        jobs: [],
        failed: [],
        backup: { at: "2026-11-25T02:00:00Z", file: "night.tar.gpg", bytes: 8.1e9, encrypted: true },
      },
    });
    shown(<KeeperPage me={KEEPER} />);
    expect((await screen.findByRole("alert")).textContent).toBe("The broker does not answer.");
    expect(screen.getByText("Nothing waits.")).toBeTruthy();
    expect(screen.getByText("Nothing was given up.")).toBeTruthy();
    expect(screen.getByText("night.tar.gpg")).toBeTruthy();
    expect(screen.getByText("8.1 GB")).toBeTruthy();
  });

  it("is nobody else's, and says how one gets to see it", () => {
    shown(<KeeperPage me={TEACHER} />);
    expect(screen.getByText(/make_keeper/)).toBeTruthy();
    expect(asked("/api/v1/keeper")).toEqual([]);
  });
});

it.each([
  [12, "12 s"],
  [125, "2 min"],
  [7_200, "2 h"],
  [400_000, "5 days"],
])("%s seconds are %s", (seconds, words) => expect(ageWords(seconds)).toBe(words));

it("names a job it does not know as it is called", () => {
  expect(jobWords("reports.set_sheet")).toBe("Setting a lesson sheet");
  expect(jobWords("new.kind")).toBe("new.kind");
});
