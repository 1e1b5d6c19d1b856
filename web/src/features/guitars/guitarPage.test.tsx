import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { GuitarDetail } from "~/api/client";
import { TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { GuitarPage } from "./GuitarPage";

const GUITAR: GuitarDetail = {
  id: 5,
  name: "Blue solid-body",
  student: "Oda",
  student_id: 3,
  description: {
    format: "fortimetra-guitar",
    version: 1,
    kind: "solid",
    strings: [0.2286, 0.2794, 0.4064, 0.6096, 0.8128, 1.0668].map((gauge_mm, i) => ({
      gauge_mm,
      wound: i > 2,
      unit_weight_g_per_m: null,
    })),
    scale_mm: 647.7,
    tuning: ["E4", "B3", "G3", "D3", "A2", "E2"],
    capo: 0,
    a4_hz: 440,
    action_treble_mm: 1.6,
    action_bass_mm: null,
    radius_mm: null,
    frets: 22,
    notes: "",
  } as GuitarDetail["description"],
  pulls: [],
};
const at = { at: "/guitars/5", path: "/guitars/:id" };
const pull = (string: number, warning: string | null = null) => ({
  string,
  tension_n: 60 + string,
  share: warning ? 0.95 : 0.5,
  estimated: string > 3,
  warning,
});

function base() {
  return {
    "GET /api/v1/guitars/{guitar_id}": GUITAR,
    "GET /api/v1/takes/set-ups": [],
    "GET /api/v1/guitars/{guitar_id}/set-ups": [],
    "POST /api/v1/guitars/pulls": [1, 2, 3, 4, 5, 6].map((s) => pull(s)),
  } as Parameters<typeof answers>[0];
}
const field = (label: string) => screen.getByLabelText<HTMLInputElement>(label);
const kept = () => sent().filter((s) => s.path !== "/api/v1/guitars/pulls");

beforeEach(() => localStorage.clear());

describe("a guitar's page", () => {
  it("says how a set-up take is played where there is none", async () => {
    answers(base());
    shown(<GuitarPage me={TEACHER} />, at);
    expect(await screen.findByText(/play each string open and at its/)).toBeTruthy();
    expect(screen.getByRole("link", { name: "Bend targets on it" }).getAttribute("href")).toBe(
      "/bench/targets?guitar=5",
    );
  });

  it("shows the pull of what is typed, and warns before a string breaks", async () => {
    answers({
      ...base(),
      "POST /api/v1/guitars/pulls": ({ body }: { body: { tuning: string[] } }) => [
        pull(1, body.tuning[0] === "G4" ? "It may break." : null),
        ...[2, 3, 4, 5, 6].map((s) => pull(s)),
      ],
    });
    shown(<GuitarPage me={TEACHER} />, at);
    expect(await screen.findByText("61 N")).toBeTruthy();
    expect(screen.getAllByText("est.")).toHaveLength(3);
    expect(screen.queryByText(/It may break/)).toBeNull();
    fireEvent.change(field("Pitch of string 1"), { target: { value: "G4" } });
    expect((await screen.findByRole("alert")).textContent).toBe("String 1: It may break.");
    expect(screen.getByText(/95 % of breaking/)).toBeTruthy();
  });

  it("is described in inches as well, and remembers which", async () => {
    answers(base());
    const { unmount } = shown(<GuitarPage me={TEACHER} />, at);
    expect((await screen.findByLabelText<HTMLInputElement>("Scale")).value).toBe("647.7");
    fireEvent.click(screen.getByRole("button", { name: "inch" }));
    expect(field("Scale").value).toBe("25.5");
    expect(field("Gauge of string 1").value).toBe("9");
    unmount();
    shown(<GuitarPage me={TEACHER} />, at);
    expect((await screen.findByLabelText<HTMLInputElement>("Scale")).value).toBe("25.5");
  });

  it("is saved as it was typed, with commas, in mm", async () => {
    answers({ ...base(), "PUT /api/v1/guitars/{guitar_id}": GUITAR });
    shown(<GuitarPage me={TEACHER} />, at);
    await screen.findByLabelText("Scale");
    fireEvent.change(field("Scale"), { target: { value: "628,65" } });
    fireEvent.change(field("Unit weight of string 4"), { target: { value: "2,5" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText(/^Saved\./)).toBeTruthy();
    expect(kept()[0]?.body).toMatchObject({
      name: "Blue solid-body",
      description: { scale_mm: 628.65, radius_mm: null },
    });
    const { strings } = (
      kept()[0] as { body: { description: { strings: { unit_weight_g_per_m: number | null }[] } } }
    ).body.description;
    expect(strings.map((s) => s.unit_weight_g_per_m)).toEqual([null, null, null, 2.5, null, null]);
  });

  it("is not saved with something that is no number", async () => {
    answers(base());
    shown(<GuitarPage me={TEACHER} />, at);
    await screen.findByLabelText("Scale");
    fireEvent.change(field("Fretboard radius"), { target: { value: "flat" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toMatch(/^Fretboard radius: this is no number/);
    expect(kept()).toEqual([]);
  });

  it("says what the server will not have, and keeps what was typed", async () => {
    answers({ ...base(), "PUT /api/v1/guitars/{guitar_id}": refused(422, "scale_mm: a number is missing.") });
    shown(<GuitarPage me={TEACHER} />, at);
    await screen.findByLabelText("Scale");
    fireEvent.change(field("Scale"), { target: { value: "long" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toBe("scale_mm: a number is missing.");
    expect(field("Scale").value).toBe("long");
  });

  it("has four to eight strings", async () => {
    answers(base());
    shown(<GuitarPage me={TEACHER} />, at);
    const table = within(await screen.findByTestId("strings"));
    const rows = () => table.getAllByRole("rowheader");
    const add = screen.getByRole<HTMLButtonElement>("button", { name: "Add a low string" });
    const away = screen.getByRole<HTMLButtonElement>("button", { name: "Take the lowest away" });
    fireEvent.click(add);
    fireEvent.click(add);
    expect(rows()).toHaveLength(8);
    expect(add.disabled).toBe(true);
    for (let i = 0; i < 4; i += 1) fireEvent.click(away);
    expect(rows()).toHaveLength(4);
    expect(away.disabled).toBe(true);
  });

  it("is filled in with a typical one, name and notes kept", async () => {
    answers({
      ...base(),
      "GET /api/v1/guitars/presets/{kind}": {
        ...GUITAR.description,
        kind: "solid",
        scale_mm: 610,
        notes: "preset",
      },
    });
    shown(<GuitarPage me={TEACHER} />, at);
    await screen.findByLabelText("Scale");
    fireEvent.change(field("Notes"), { target: { value: "from a friend" } });
    fireEvent.click(screen.getByRole("button", { name: "Fill in a typical one" }));
    await waitFor(() => expect(field("Scale").value).toBe("610"));
    expect(field("Notes").value).toBe("from a friend");
    expect(field("Name").value).toBe("Blue solid-body");
    expect(asked("/api/v1/guitars/presets/solid")).toHaveLength(1);
  });

  it("is deleted behind a fold, and leads back to its student", async () => {
    answers({ ...base(), "DELETE /api/v1/guitars/{guitar_id}": null });
    shown(<GuitarPage me={TEACHER} />, at);
    fireEvent.click(await screen.findByText("Delete the guitar for good"));
    expect(await screen.findByText("at /students/3")).toBeTruthy();
    expect(kept()[0]).toMatchObject({ method: "DELETE", path: "/api/v1/guitars/5" });
  });
});
