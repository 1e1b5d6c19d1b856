import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { STUDENT, sheet, student, TEACHER } from "~/testing/made";
import { shown } from "~/testing/shown";
import { answers, asked, refused, sent } from "~/testing/wire";
import { SheetPage } from "./SheetPage";
import { SheetsPage } from "./SheetsPage";
import { WordsForm } from "./WordsForm";

const ID = sheet().id;
const at = { at: `/sheets/${ID}`, path: "/sheets/:id" };

describe("lesson sheets of a student", () => {
  const of = { at: "/students/3/sheets", path: "/students/:id/sheets" };

  it("are listed with what they found", async () => {
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/reports/sheets": [
        sheet({ link: "https://quay.example/s/x" }),
        sheet({ id: "b", findings: [] }),
      ],
    });
    shown(<SheetsPage me={TEACHER} />, of);
    expect(await screen.findByText("Bends stop short, Late after the string change")).toBeTruthy();
    expect(screen.getByText("nothing stood out")).toBeTruthy();
    expect(screen.getByText(/since Thu,? 19 Nov, shared/)).toBeTruthy();
    expect(asked("/api/v1/reports/sheets")[0]?.query).toEqual({ student_id: "3" });
  });

  it.each([
    ["en-US", "Letter"],
    ["es-MX", "Letter"],
    ["en-GB", "A4"],
    ["de", "A4"],
  ])("are made for the paper of %s: %s", async (language, paper) => {
    vi.spyOn(navigator, "language", "get").mockReturnValue(language);
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/reports/sheets": [],
      "POST /api/v1/reports/sheets": sheet(),
    });
    shown(<SheetsPage me={TEACHER} />, of);
    expect(await screen.findByText("No lesson sheet yet")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Make a lesson sheet" }));
    expect(await screen.findByText(`at /sheets/${ID}`)).toBeTruthy();
    expect(sent()[0]?.body).toEqual({ student_id: 3, since: null, paper });
    vi.restoreAllMocks();
  });

  it("are not made where there is nothing to say, and the student makes none", async () => {
    answers({
      "GET /api/v1/students": [student()],
      "GET /api/v1/reports/sheets": [],
      "POST /api/v1/reports/sheets": refused(400, "Nothing was recorded since the last sheet."),
    });
    const { unmount } = shown(<SheetsPage me={TEACHER} />, of);
    fireEvent.click(screen.getByRole("button", { name: "Make a lesson sheet" }));
    expect((await screen.findByRole("alert")).textContent).toMatch(/^Nothing was recorded/);
    unmount();
    shown(<SheetsPage me={STUDENT} />, { at: "/sheets" });
    expect(await screen.findByText("No lesson sheet yet")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Make a lesson sheet" })).toBeNull();
  });
});

describe("one lesson sheet", () => {
  it("is for a student to read, save and print, and nothing else", async () => {
    answers({ "GET /api/v1/reports/sheets/{sheet_id}": sheet() });
    shown(<SheetPage me={STUDENT} />, at);
    expect(await screen.findByText(/^Lesson of .*26 Nov/)).toBeTruthy();
    expect(screen.getByTestId("sheet-page").getAttribute("src")).toBe(`/api/v1/reports/sheets/${ID}/page`);
    expect(screen.getAllByRole("button").map((b) => b.textContent)).toEqual(["Make the PDF", "Print"]);
    expect(screen.getByRole("link", { name: "Lesson sheets" }).getAttribute("href")).toBe("/sheets");
  });

  it("has its PDF set by a worker and asked for until it is there", async () => {
    let state: "none" | "waiting" | "ready" = "none";
    answers({
      "GET /api/v1/reports/sheets/{sheet_id}": () => {
        const now = sheet({ pdf: state });
        if (state === "waiting") state = "ready";
        return now;
      },
      "POST /api/v1/reports/sheets/{sheet_id}/pdf": () => {
        state = "waiting";
        return sheet({ pdf: "waiting" });
      },
    });
    shown(<SheetPage me={STUDENT} />, at);
    fireEvent.click(await screen.findByRole("button", { name: "Make the PDF" }));
    const link = await screen.findByTestId("pdf");
    expect(link.getAttribute("href")).toBe(`/api/v1/reports/sheets/${ID}/pdf`);
  });

  it("says when the PDF could not be made", async () => {
    answers({ "GET /api/v1/reports/sheets/{sheet_id}": sheet({ pdf: "failed" }) });
    shown(<SheetPage me={STUDENT} />, at);
    expect(await screen.findByText(/print it instead/)).toBeTruthy();
  });

  it("is shared by a link that can be copied and taken back", async () => {
    let link: string | null = null;
    answers({
      "GET /api/v1/reports/sheets/{sheet_id}": () => sheet({ link }),
      "PUT /api/v1/reports/sheets/{sheet_id}/share": ({ body }: { body: { on: boolean } }) => {
        link = body.on ? "https://quay.example/s/x" : null;
        return sheet({ link });
      },
    });
    const user = userEvent.setup();
    shown(<SheetPage me={TEACHER} />, at);
    await user.click(await screen.findByRole("button", { name: "A link for the student" }));
    expect((await screen.findByTestId<HTMLInputElement>("link")).value).toBe("https://quay.example/s/x");
    await user.click(screen.getByRole("button", { name: "Copy" }));
    expect(await navigator.clipboard.readText()).toBe("https://quay.example/s/x");
    expect(screen.getByRole("button", { name: "Copied" })).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Take the link back" }));
    await waitFor(() => expect(screen.queryByTestId("link")).toBeNull());
    expect(sent().map((s) => s.body)).toEqual([{ on: true }, { on: false }]);
  });

  it("selects the link where a page may not copy", async () => {
    answers({ "GET /api/v1/reports/sheets/{sheet_id}": sheet({ link: "https://quay.example/s/x" }) });
    vi.stubGlobal(
      "navigator",
      new Proxy(navigator, { get: (n, k) => (k === "clipboard" ? undefined : Reflect.get(n, k)) }),
    );
    shown(<SheetPage me={TEACHER} />, at);
    const field = await screen.findByTestId<HTMLInputElement>("link");
    fireEvent.click(screen.getByRole("button", { name: "Copy" }));
    await waitFor(() => expect(document.activeElement).toBe(field));
    expect([field.selectionStart, field.selectionEnd]).toEqual([0, field.value.length]);
    expect(screen.getByRole("button", { name: "Copy" })).toBeTruthy();
    vi.unstubAllGlobals();
  });

  it("is deleted only after a question", async () => {
    answers({
      "GET /api/v1/reports/sheets/{sheet_id}": sheet(),
      "DELETE /api/v1/reports/sheets/{sheet_id}": null,
    });
    shown(<SheetPage me={TEACHER} />, at);
    fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
    expect(sent()).toEqual([]);
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByText(/the takes stay/)).toBeTruthy();
    fireEvent.click(dialog.getByRole("button", { name: "Delete for good" }));
    expect(await screen.findByText("at /students/3/sheets")).toBeTruthy();
    expect(sent()[0]?.method).toBe("DELETE");
  });

  it("of somebody else is not found", async () => {
    answers({ "GET /api/v1/reports/sheets/{sheet_id}": refused(404, "There is no such lesson sheet.") });
    shown(<SheetPage me={TEACHER} />, at);
    expect((await screen.findByRole("alert")).textContent).toContain("There is no such lesson sheet.");
  });
});

describe("the teacher's words on a sheet", () => {
  it("change, drop and add findings, three at most", async () => {
    answers({ "PUT /api/v1/reports/sheets/{sheet_id}": sheet() });
    const kept = vi.fn();
    const user = userEvent.setup();
    shown(<WordsForm sheet={sheet()} onKept={kept} />);
    await user.type(screen.getByLabelText("A word for the student"), "Well done.");
    fireEvent.change(screen.getByLabelText("1. Drill 1"), { target: { value: "Bends are nearly there" } });
    await user.click(screen.getByRole("combobox", { name: "Another finding" }));
    await user.click(await screen.findByRole("option", { name: "Low strings ring (Drill 3)" }));
    // Three are on the page: no more can be chosen until one is left off.
    expect(screen.queryByRole("combobox", { name: "Another finding" })).toBeNull();
    await user.click(within(screen.getByRole("group", { name: "Finding 2" })).getByRole("button"));
    expect(screen.getByRole("combobox", { name: "Another finding" })).toBeTruthy();
    await user.click(screen.getByRole("combobox", { name: "Paper" }));
    await user.click(await screen.findByRole("option", { name: "Letter" }));
    await user.click(screen.getByRole("button", { name: "Put it on the page" }));
    await waitFor(() => expect(kept).toHaveBeenCalled());
    expect(sent()[0]?.body).toEqual({
      note: "Well done.",
      paper: "Letter",
      findings: [
        { candidate: 0, says: "Bends are nearly there", tries: "Try 1" },
        { candidate: 2, says: "Low strings ring", tries: "Try 3" },
      ],
    });
  });

  it("stay in the form where they are refused", async () => {
    answers({ "PUT /api/v1/reports/sheets/{sheet_id}": refused(422, "The note is too long for one page.") });
    shown(<WordsForm sheet={sheet({ note: "as it was" })} onKept={() => {}} />);
    fireEvent.click(screen.getByRole("button", { name: "Put it on the page" }));
    expect((await screen.findByRole("alert")).textContent).toBe("The note is too long for one page.");
    expect(screen.getByLabelText<HTMLTextAreaElement>("A word for the student").value).toBe("as it was");
  });
});
