import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { DrillContent } from "~/api/client";
import type { DrillSound } from "~/lib/useDrillSound";
import { STUDENT, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { CardInShort } from "./CardInShort";
import type { Card } from "./cardQuery";
import { DrillCard } from "./DrillCard";

const POSTURE = {
  event: "e1", beat: 0, held: [{ string: 3, fret: 7, finger: "3", flat: false }], sounding: [3], pushed: null,
  quiet: [{ string: 4, part: "palm", finger: null, sure: true, says: "the side of the picking hand's thumb" }],
  unreachable: [], says: ["The side of the picking hand's thumb lies on string 4."], moved: [],
} as const; // biome-ignore format: a table
const CARD = {
  title: "Sweep", family: "sweep", strings: 6,
  sections: [
    { name: "purpose", title: "What it is for", lines: ["One motion."], own: null },
    { name: "practise", title: "How to practise", lines: ["Two strings first.", "Slowly."], own: "drill" },
  ],
  clean: ["Notes start within 40 ms of their beat."],
  wrong: [
    { says: "The middle rushes.", sounds: "Too soon.", shown: { cents: 0, vibrato_cv: 0, late_ms: -40, slur_db: 0, ring_string: null, ring_db: -20 } },
    { says: "It is dull.", sounds: "Choked.", shown: null },
  ],
  silent: [{ says: "Roll the fingers.", seconds: 10 }],
  shapes: [{ posture: POSTURE, events: ["e1", "e3"], place: "bar 1, beat 1" }],
  more_shapes: 2, moves: ["e3"], quiet_words: ["String 4: the side of the picking hand's thumb."],
  answers: [{ string: 4, events: ["e1"], strongest_db: -6, strength: "strong", note: "D4" }],
  strokes: { kind: "sweep", strokes: [], changes: [], slant: "any", says: ["One motion through the strings."] },
  cautions: [{ code: "strain", text: "Warm up." }],
  problems: [{ code: "unreachable", text: "Nothing reaches string 2 everywhere." }],
} as unknown as Card; // biome-ignore format: a table
const CONTENT = {
  school: { damping: "picking_hand" },
  tempo: { bpm: 80, beats_per_bar: 4 },
  events: [],
} as unknown as DrillContent;
const ADDRESS = "GET /api/v1/drills/{drill_id}/card" as const;
const WRITE = "PUT /api/v1/drills/{drill_id}/card/{section}" as const;
const RUNG = "GET /api/v1/takes/rung" as const;

function sound(part: Partial<DrillSound> = {}): DrillSound {
  return { state: "still", error: null, play: vi.fn(), stop: vi.fn(), beat: () => null, ...part };
}

const card = (me = TEACHER, heard = sound()) =>
  shown(<DrillCard drillId={7} content={CONTENT} me={me} sound={heard} />);

beforeEach(() => localStorage.clear());

describe("the drill card", () => {
  it("says how a drill is practised, what clean means and what no hand can do", async () => {
    answers({
      [ADDRESS]: CARD,
      [RUNG]: [
        { string: 4, takes: 3, of: 8, level_db: -19 },
        { string: 1, takes: 1, of: 8, level_db: -24 },
      ],
    });
    card();
    await screen.findByText("One motion.");
    for (const text of [
      "Two strings first.",
      "Notes start within 40 ms of their beat.",
      "Nothing reaches string 2 everywhere.",
      "Warm up.",
    ])
      expect(screen.getByText(text)).toBeTruthy();
    expect(screen.getByTestId("silent").textContent).toContain("10 s, not judged");
    expect(screen.getByText(/the picking hand does it/)).toBeTruthy();
    expect(screen.getByText(/A damping part moves at one place/)).toBeTruthy();
    expect(screen.getByText(/and 1 more like it/)).toBeTruthy();
    await waitFor(() =>
      expect(screen.getByTestId("answers").textContent).toContain("rang in 3 of 8 takes, at −19 dB"),
    );
    expect(screen.getByTestId("answers").textContent).toContain("String 1: rang in 1 of 8 takes");
    expect(screen.getByTestId("neck").getAttribute("aria-label")).toContain("finger 3 on string 3, fret 7");
  });

  it("plays what usually goes wrong, where it can be played", async () => {
    answers({ [ADDRESS]: CARD, [RUNG]: [] });
    const heard = sound();
    card(STUDENT, heard);
    await userEvent.click(await screen.findByRole("button", { name: "Hear it: The middle rushes." }));
    expect(heard.play).toHaveBeenCalledWith(
      expect.objectContaining({ shown: expect.objectContaining({ late_ms: -40 }) }),
    );
    expect(screen.queryByRole("button", { name: "Hear it: It is dull." })).toBeNull();
    expect(screen.queryByRole("button", { name: "Change the text" })).toBeNull();
  });

  it("is written differently by a teacher, for the drill or its family, and taken back", async () => {
    answers({
      [ADDRESS]: CARD,
      [RUNG]: [],
      [WRITE]: CARD,
    });
    const user = userEvent.setup();
    card();
    await user.click(await screen.findByRole("button", { name: "Change the text" }));
    await user.click(screen.getByRole("button", { name: "Change: What it is for" }));
    const field = screen.getByRole("textbox", { name: "What it is for" });
    await user.clear(field);
    await user.type(field, "Mine.");
    await user.click(screen.getByRole("combobox", { name: "For" }));
    await user.click(await screen.findByRole("option", { name: "all drills of this family" }));
    expect(screen.queryByRole("button", { name: "Back to the standard text" })).toBeNull();
    await user.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent()).toHaveLength(1));
    expect(sent()[0]).toMatchObject({
      path: "/api/v1/drills/7/card/purpose",
      body: { of: "family", lines: ["Mine."] },
    });
    await user.click(screen.getByRole("button", { name: "Change: How to practise" }));
    await user.click(screen.getByRole("button", { name: "Back to the standard text" }));
    await waitFor(() =>
      expect(sent()[1]).toMatchObject({
        path: "/api/v1/drills/7/card/practise",
        body: { of: "drill", lines: [] },
      }),
    );
  });

  it("says why words were not taken, and keeps them", async () => {
    answers({
      [ADDRESS]: CARD,
      [RUNG]: [],
      [WRITE]: refused(422, "At most 12 lines."),
    });
    const user = userEvent.setup();
    card();
    await user.click(await screen.findByRole("button", { name: "Change the text" }));
    await user.click(screen.getByRole("button", { name: "Change: What it is for" }));
    await user.type(screen.getByRole("textbox", { name: "What it is for" }), " More.");
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toContain("At most 12 lines.");
    expect(screen.getByRole("textbox", { name: "What it is for" })).toHaveProperty(
      "value",
      "One motion. More.",
    );
  });

  it("draws for the left hand where the student is, and remembers what was chosen", async () => {
    answers({ [ADDRESS]: CARD, [RUNG]: [] });
    card({ ...STUDENT, left_handed: true });
    const tick = (await screen.findByLabelText("Draw for the left hand")) as HTMLInputElement;
    expect(tick.checked).toBe(true);
    await userEvent.click(tick);
    expect(localStorage.getItem("fortimetra.left-handed")).toBe("no");
  });
});

describe("the card in short", () => {
  it("asks for nothing until it is opened, then shows what is needed before playing", async () => {
    answers({ [ADDRESS]: CARD });
    shown(<CardInShort drillId={7} me={STUDENT} />);
    expect(asked("/api/v1/drills/7/card")).toEqual([]);
    await userEvent.click(screen.getByText("How to practise it"));
    const short = within(screen.getByTestId("card-in-short"));
    expect(await short.findByText("Two strings first.")).toBeTruthy();
    expect(short.getByText("Roll the fingers.")).toBeTruthy();
    expect(short.getByRole("link", { name: "The whole card" }).getAttribute("href")).toBe("/drills/7");
    expect(short.queryByText("One motion.")).toBeNull();
  });
});
