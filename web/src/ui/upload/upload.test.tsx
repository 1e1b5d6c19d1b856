import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { drill, student, TEACHER, take } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, refused, sent } from "~/testing/wire";
import { ManyDialog } from "./ManyDialog";
import { UploadDialog } from "./UploadDialog";

const base = {
  "GET /api/v1/students": [student(), student({ id: 4, name: "Jory" })],
  "GET /api/v1/drills": [
    drill(),
    drill({ id: 8, title: "Scale in thirds" }),
    drill({ id: 9, title: "Old", archived: true }),
  ],
  "GET /api/v1/guitars": [],
};

const wav = (name: string, size = 1200) => new File([new Uint8Array(size)], name, { type: "audio/wav" });
const measure = (name: string | RegExp) => screen.getByRole<HTMLButtonElement>("button", { name });

beforeEach(() => localStorage.clear());

async function choose(label: string, option: string) {
  const user = userEvent.setup();
  const list = await screen.findByRole<HTMLButtonElement>("combobox", { name: label });
  await waitFor(() => expect(list.disabled).toBe(false));
  await user.click(list);
  await user.click(await screen.findByRole("option", { name: option }));
}

describe("adding a recording", () => {
  it("asks who and what, and opens its sheet", async () => {
    answers({ ...base, "POST /api/v1/takes": () => Response.json(take(), { status: 201 }) });
    shown(<UploadDialog me={TEACHER} file={wav("one.wav")} onClose={() => {}} />);
    expect(measure("Measure it").disabled).toBe(true);
    await choose("Who plays", "Jory");
    expect(measure("Measure it").disabled).toBe(true);
    await choose("Which drill", "Scale in thirds");
    fireEvent.click(measure("Measure it"));
    expect(await screen.findByText(`at /takes/${take().id}`)).toBeTruthy();
    // The next recording is probably of the same.
    expect(JSON.parse(localStorage.getItem("fortimetra.lastUpload") ?? "")).toMatchObject({
      student: "4",
      drill: "8",
    });
  });

  it("forgets a student or a drill that is no longer there", async () => {
    localStorage.setItem("fortimetra.lastUpload", JSON.stringify({ student: "99", drill: "9" }));
    answers(base);
    shown(<UploadDialog me={TEACHER} file={wav("one.wav")} onClose={() => {}} />);
    await waitFor(() =>
      expect(screen.getByRole<HTMLButtonElement>("combobox", { name: "Which drill" }).disabled).toBe(false),
    );
    expect(measure("Measure it").disabled).toBe(true);
    expect(screen.getByRole("combobox", { name: "Who plays" }).textContent).toBe("Choose");
    expect(screen.getByRole("combobox", { name: "Which drill" }).textContent).toBe("Choose");
  });

  it("offers nobody who has left, and waits for consent", async () => {
    const user = userEvent.setup();
    answers({
      ...base,
      "GET /api/v1/students": [
        student({ agreed: false }),
        student({ id: 4, name: "Jory", left_at: "2026-05-01T08:00:00Z" }),
      ],
    });
    shown(<UploadDialog me={TEACHER} file={wav("one.wav")} onClose={() => {}} />);
    await choose("Which drill", "Scale in thirds");
    await user.click(screen.getByRole("combobox", { name: "Who plays" }));
    expect(screen.queryByRole("option", { name: "Jory" })).toBeNull();
    await user.click(await screen.findByRole("option", { name: "Oda" }));
    expect(await screen.findByTestId("not-agreed")).toBeTruthy();
    expect(measure("Measure it").disabled).toBe(true);
  });

  it("says a file is too large before it is sent", async () => {
    answers(base);
    shown(
      <UploadDialog
        me={{ ...TEACHER, upload_max_bytes: 1000 }}
        file={wav("one.wav", 1200)}
        onClose={() => {}}
      />,
    );
    expect((await screen.findByRole("alert")).textContent).toMatch(/at most 1 kB are taken/);
    expect(measure("Measure it").disabled).toBe(true);
  });

  it("says what the server will not have", async () => {
    localStorage.setItem("fortimetra.lastUpload", JSON.stringify({ student: "3", drill: "7" }));
    answers({ ...base, "POST /api/v1/takes": refused(422, "This is not an audio file.") });
    shown(<UploadDialog me={TEACHER} file={wav("letter.wav")} onClose={() => {}} />);
    await waitFor(() => expect(measure("Measure it").disabled).toBe(false));
    fireEvent.click(measure("Measure it"));
    expect((await screen.findByRole("alert")).textContent).toBe("This is not an audio file.");
    expect(measure("Measure it").disabled).toBe(false);
  });

  it("of a set-up is of a guitar and no drill", async () => {
    answers({ ...base, "POST /api/v1/takes": () => Response.json(take(), { status: 201 }) });
    const of = { studentId: 3, guitarId: 5, name: "Blue solid-body" };
    shown(<UploadDialog me={TEACHER} file={wav("open.wav")} setUpOf={of} onClose={() => {}} />);
    expect(screen.getByText("Blue solid-body")).toBeTruthy();
    expect(screen.queryByRole("combobox")).toBeNull();
    fireEvent.click(measure("Measure it"));
    expect(await screen.findByText(`at /takes/${take().id}`)).toBeTruthy();
    expect(localStorage.getItem("fortimetra.lastUpload")).toBeNull();
  });
});

describe("adding several recordings", () => {
  const files = [
    wav("Oda Scale in thirds.wav"),
    wav("Jory Scale in thirds.wav"),
    wav("Jory Scale in thirds.wav"),
  ];
  const rows = () => screen.getAllByTestId("one-of-many");
  const states = () => rows().map((r) => r.getAttribute("data-state"));

  it("guesses from names, and tells two files of one name apart", async () => {
    answers({ ...base, "POST /api/v1/takes": () => Response.json(take(), { status: 201 }) });
    shown(<ManyDialog me={TEACHER} files={files} onClose={() => {}} />);
    await waitFor(() => expect(measure("Measure them").disabled).toBe(false));
    expect(within(rows()[0] as HTMLElement).getByRole("combobox", { name: "Who plays" }).textContent).toBe(
      "Oda",
    );
    expect(within(rows()[2] as HTMLElement).getByRole("combobox", { name: "Who plays" }).textContent).toBe(
      "Jory",
    );
    fireEvent.click(measure("Measure them"));
    await waitFor(() => expect(states()).toEqual(["sent", "sent", "sent"]));
    expect(screen.getByText("3 of 3 sent")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Done" })).toBeTruthy();
    expect(sent()).toHaveLength(3);
  });

  it("sends again what did not arrive, without anything chosen anew", async () => {
    let arrives = false;
    answers({
      ...base,
      "POST /api/v1/takes": () =>
        arrives ? Response.json(take(), { status: 201 }) : refused(503, "The disk is full."),
    });
    shown(<ManyDialog me={TEACHER} files={files.slice(0, 2)} onClose={() => {}} />);
    await waitFor(() => expect(measure("Measure them").disabled).toBe(false));
    fireEvent.click(measure("Measure them"));
    await waitFor(() =>
      expect(screen.getAllByRole("alert").map((a) => a.textContent)).toEqual([
        "The disk is full.",
        "The disk is full.",
      ]),
    );
    arrives = true;
    await waitFor(() => expect(measure("Measure them").disabled).toBe(false));
    fireEvent.click(measure("Measure them"));
    await waitFor(() => expect(states()).toEqual(["sent", "sent"]));
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("leaves out what is refused until something is changed", async () => {
    answers({ ...base, "POST /api/v1/takes": refused(422, "This is not an audio file.") });
    shown(<ManyDialog me={TEACHER} files={files.slice(0, 1)} onClose={() => {}} />);
    await waitFor(() => expect(measure("Measure it").disabled).toBe(false));
    fireEvent.click(measure("Measure it"));
    await waitFor(() => expect(states()).toEqual(["refused"]));
    fireEvent.click(measure("Measure it"));
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(sent()).toHaveLength(1);
  });

  it("hears what a name does not say, and leaves what somebody has chosen meanwhile", async () => {
    answers({
      ...base,
      "POST /api/v1/takes/guesses": { id: "g", state: "done", drills: [{ drill_id: 7 }], problem: "" },
    });
    shown(<ManyDialog me={TEACHER} files={[wav("Oda 001.wav")]} onClose={() => {}} />);
    expect(await screen.findByText("Told by its notes.")).toBeTruthy();
    expect(screen.getByRole("combobox", { name: "Which drill" }).textContent).toBe(
      "String 3: full bend at fret 7",
    );
  });

  it("says when the notes fit nothing", async () => {
    answers({
      ...base,
      "POST /api/v1/takes/guesses": { id: "g", state: "done", drills: [], problem: "" },
    });
    shown(<ManyDialog me={TEACHER} files={[wav("Oda 001.wav")]} onClose={() => {}} />);
    expect(await screen.findByText("Its notes fit no drill; choose it by hand.")).toBeTruthy();
    expect(measure("Measure it").disabled).toBe(true);
  });
});
