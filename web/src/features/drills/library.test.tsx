import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { DrillDetail } from "~/api/client";
import type { ScoreRead } from "~/api/drills";
import { drill, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, refused, sent } from "~/testing/wire";
import { DrillActions } from "./DrillActions";
import { Drills } from "./Drills";
import { ImportPage } from "./ImportPage";
import { Problems } from "./Problems";
import { Shelf } from "./Shelf";

const LIBRARY = [
  drill({ tags: ["recital"] }),
  drill({
    id: 8,
    title: "Scale in thirds",
    family: "alternate_picking",
    strings: [1, 2],
    level: 2,
    takes: 1,
  }),
  drill({ id: 9, title: "Free bends", bpm: null, repeats: 1, level: 3 }),
  drill({ id: 10, title: "Old ladder", archived: true }),
];
const titles = () => screen.getAllByRole("listitem").map((li) => within(li).getByRole("link").textContent);

describe("the library", () => {
  it("stands by families, and what is archived is out of sight", async () => {
    answers({ "GET /api/v1/drills": LIBRARY });
    shown(<Drills me={TEACHER} />);
    await screen.findByText("Scale in thirds");
    expect(titles()).toEqual(["String 3: full bend at fret 7", "Free bends", "Scale in thirds"]);
    const rows = screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(rows[1]).toContain("free time, 30 s, 4 notes, 0 takes");
    expect(rows[2]).toContain("66 bpm, 30 s, 4 notes, 1 take");
    fireEvent.click(screen.getByLabelText("archived drills"));
    expect(titles()).toEqual(["Old ladder"]);
  });

  it("is searched by words and by what is chosen", async () => {
    answers({ "GET /api/v1/drills": LIBRARY });
    const user = userEvent.setup();
    shown(<Drills me={TEACHER} />);
    await screen.findByText("Scale in thirds");
    const find = screen.getByLabelText("Find in title, family and tags");
    await user.type(find, "bend recital");
    expect(titles()).toEqual(["String 3: full bend at fret 7"]);
    await user.clear(find);
    await user.click(screen.getByRole("combobox", { name: "String" }));
    await user.click(await screen.findByRole("option", { name: "2" }));
    expect(titles()).toEqual(["Scale in thirds"]);
    await user.click(screen.getByRole("combobox", { name: "Level" }));
    await user.click(await screen.findByRole("option", { name: "advanced" }));
    expect(screen.getByText("No drill here fits these words.")).toBeTruthy();
    await user.click(screen.getByRole("combobox", { name: "String" }));
    await user.click(await screen.findByRole("option", { name: "any" }));
    expect(titles()).toEqual(["Free bends"]);
  });

  it.each([
    ["run.musicxml", "POST /api/v1/drills/imports", "at /drills/import/s1"],
    ["run.MID", "POST /api/v1/drills/imports", "at /drills/import/s1"],
    ["run.json", "POST /api/v1/drills", "at /drills/44"],
  ] as const)("takes %s in", async (name, place, leads) => {
    answers({
      "GET /api/v1/drills": LIBRARY,
      [place]: place.endsWith("imports") ? { id: "s1" } : { id: 44 },
    });
    shown(<Drills me={TEACHER} />);
    await screen.findByText("Scale in thirds");
    fireEvent.change(screen.getByLabelText("Drill file"), { target: { files: [new File(["{}"], name)] } });
    expect(await screen.findByText(leads)).toBeTruthy();
  });

  it("says what is wrong with a file, and stays", async () => {
    answers({
      "GET /api/v1/drills": LIBRARY,
      "POST /api/v1/drills": refused(422, "events/0: a note has no string."),
    });
    shown(<Drills me={TEACHER} />);
    await screen.findByText("Scale in thirds");
    fireEvent.change(screen.getByLabelText("Drill file"), {
      target: { files: [new File(["{}"], "x.json")] },
    });
    expect((await screen.findByRole("alert")).textContent).toBe("events/0: a note has no string.");
    expect(titles()).toHaveLength(3);
  });

  it("gives an empty sheet to write on", async () => {
    answers({ "GET /api/v1/drills": [], "POST /api/v1/drills/blank": { id: 45 } });
    shown(<Drills me={TEACHER} />);
    expect(await screen.findByText("No drills yet")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Empty sheet" }));
    expect(await screen.findByText("at /drills/45/write")).toBeTruthy();
  });
});

describe("a score from elsewhere", () => {
  const at = { at: "/drills/import/s1", path: "/drills/import/:id" };
  const CONTENT = {
    title: "Harbour run",
    tempo: { bpm: 80, beats_per_bar: 4, count_in_beats: 4, swing: 0.5 },
    repeats: 2,
    tuning: ["E4", "B3", "G3", "D3", "A2", "E2"],
    capo: 0,
    measures: ["timing", "level"],
    profile: "steady",
    events: [
      {
        id: "e1",
        beat: 0,
        length: 1,
        notes: [{ string: 3, fret: 7 }],
        articulation: "pick",
        bend: null,
        vibrato: null,
      },
      {
        id: "e2",
        beat: 1,
        length: 1,
        notes: [{ string: 3, fret: 9 }],
        articulation: "pick",
        bend: null,
        vibrato: null,
      },
    ],
  };
  const read = (part: object = {}): ScoreRead =>
    ({
      id: "s1",
      file_name: "run.mid",
      state: "read",
      problem: "",
      proposed: ["e1", "e2"],
      lost: [],
      made: { content: CONTENT, length_beats: 4, problems: [] },
      ...part,
    }) as unknown as ScoreRead;

  it("is read by a worker, and shown with what is only proposed before it is kept", async () => {
    const states = [
      read({ state: "waiting", made: null, proposed: [] }),
      read({ lost: ["A lyric in bar 2"] }),
    ];
    answers({
      "GET /api/v1/drills/imports/{import_id}": () => (states.length > 1 ? states.shift() : states[0]),
      "POST /api/v1/drills/imports/{import_id}/keep": { id: 46 },
      "GET /api/v1/drills": [],
    });
    shown(<ImportPage />, at);
    expect(await screen.findByText(/Loading “run.mid”/)).toBeTruthy();
    expect(await screen.findByRole("heading", { name: "Harbour run" })).toBeTruthy();
    expect(screen.getByTestId("proposed").textContent).toMatch(
      /^Strings and frets of 2 places are a proposal/,
    );
    expect(screen.getByTestId("lost").textContent).toContain("A lyric in bar 2");
    expect(screen.queryByText("Everything in the file was kept.")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Keep and write on" }));
    expect(await screen.findByText("at /drills/46/write")).toBeTruthy();
  });

  it("that cannot be read leaves nothing behind", async () => {
    answers({
      "GET /api/v1/drills/imports/{import_id}": read({
        state: "refused",
        made: null,
        proposed: [],
        problem: "Bar 3, beat 2: this note is lower than the guitar goes.",
      }),
    });
    shown(<ImportPage />, at);
    expect((await screen.findByRole("alert")).textContent).toMatch(/^Bar 3, beat 2/);
    expect(screen.getByText(/Nothing of “run.mid” was kept/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Keep this drill" })).toBeNull();
  });

  it("is thrown away", async () => {
    answers({
      "GET /api/v1/drills/imports/{import_id}": read({ proposed: [] }),
      "DELETE /api/v1/drills/imports/{import_id}": null,
    });
    shown(<ImportPage />, at);
    expect(await screen.findByText("Everything in the file was kept.")).toBeTruthy();
    expect(screen.queryByTestId("proposed")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Throw away" }));
    expect(await screen.findByText("at /drills")).toBeTruthy();
    expect(sent()[0]?.method).toBe("DELETE");
  });
});

describe("a drill in the library", () => {
  const detail = (part: object = {}) => ({ ...drill(), after: null, ...part }) as unknown as DrillDetail;

  it("is copied, archived and restored", async () => {
    answers({
      "POST /api/v1/drills/{drill_id}/duplicate": { id: 47 },
      "PATCH /api/v1/drills/{drill_id}": detail({ archived: true }),
    });
    const { unmount } = shown(<DrillActions drill={detail()} />);
    fireEvent.click(screen.getByRole("button", { name: "Archive" }));
    await waitFor(() => expect(sent()[0]?.body).toEqual({ archived: true }));
    fireEvent.click(screen.getByRole("button", { name: "Make a copy" }));
    expect(await screen.findByText("at /drills/47")).toBeTruthy();
    unmount();
    shown(<DrillActions drill={detail({ archived: true })} />);
    expect(screen.getByText(/its takes keep it/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Restore" }));
    await waitFor(() => expect(sent()[2]?.body).toEqual({ archived: false }));
  });

  it("is tagged, graded and put after another; what did not change is not sent", async () => {
    answers({ "PATCH /api/v1/drills/{drill_id}": detail(), "GET /api/v1/drills": LIBRARY });
    const user = userEvent.setup();
    shown(<Shelf drill={detail({ tags: ["recital"] })} />);
    const tags = screen.getByLabelText("Tags, with commas");
    fireEvent.blur(tags);
    expect(sent()).toEqual([]);
    fireEvent.change(tags, { target: { value: " recital, , spring " } });
    fireEvent.blur(tags);
    await waitFor(() => expect(sent()[0]?.body).toEqual({ tags: ["recital", "spring"] }));
    await user.click(screen.getByRole("combobox", { name: "Level" }));
    await user.click(await screen.findByRole("option", { name: "not said" }));
    await waitFor(() => expect(sent()[1]?.body).toEqual({ level: null }));
    await user.click(screen.getByRole("combobox", { name: "What comes before it" }));
    await user.click(await screen.findByRole("option", { name: "Free bends" }));
    await waitFor(() => expect(sent()[2]?.body).toEqual({ after_id: 9 }));
    // Only its own family is offered.
    await user.click(screen.getByRole("combobox", { name: "What comes before it" }));
    expect(screen.queryByRole("option", { name: "Scale in thirds" })).toBeNull();
  });

  it("names what cannot be played apart from what is risky, each a way to its place", () => {
    const gone: number[] = [];
    const problem = (code: string, level: string, beat: number) => ({
      event: "e1",
      code,
      level,
      beat,
      text: code,
    });
    shown(
      <Problems
        problems={[problem("too far apart", "error", 2), problem("a long shift", "warning", 5)] as never}
        onGo={(beat) => gone.push(beat)}
      />,
    );
    const rows = within(screen.getByTestId("problems")).getAllByRole("listitem");
    expect(rows.map((r) => r.textContent)).toEqual([
      "Cannot be played. too far apart",
      "Take care. a long shift",
    ]);
    fireEvent.click(screen.getByRole("button", { name: "a long shift" }));
    expect(gone).toEqual([5]);
  });
});
