import { fireEvent, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { VALUES } from "~/lib/valueHelp";
import { STUDENT, TEACHER } from "~/testing/made";
import { openSheet } from "~/testing/sheet";
import { shown } from "~/testing/shown";
import { chapterFor } from "./chapters";
import { HelpPage } from "./HelpPage";
import { CHAPTERS, foundChapters } from "./handbook";

describe("the handbook", () => {
  it("has for each page a chapter of that reader", () => {
    const places = [
      "/",
      "/takes/x",
      "/compare/x",
      "/record",
      "/students",
      "/students/3",
      "/students/3/plan",
      "/studio",
    ];
    for (const role of ["teacher", "student"] as const)
      for (const place of [...places, "/progress", "/nowhere"]) {
        const chapter = CHAPTERS.find((c) => c.id === chapterFor(place, role));
        expect(chapter, `${role} ${place}`).toBeTruthy();
      }
    expect(chapterFor("/", "teacher")).toBe("desk");
    expect(chapterFor("/", "student")).toBe("today");
    expect(chapterFor("/record/7", "student")).toBe("recording");
  });

  it("is found by every word, and says what to try where nothing is", async () => {
    const user = userEvent.setup();
    shown(<HelpPage me={TEACHER} />, { at: "/help" });
    const text = screen.getByTestId("handbook");
    expect(text.textContent).toContain("An evening at the Desk");
    await user.type(screen.getByRole("searchbox"), "phone room");
    expect(within(text).getAllByRole("heading", { level: 2 })[0]?.textContent).toBe("How to record well");
    expect(text.textContent).not.toContain("An evening at the Desk");
    await user.clear(screen.getByRole("searchbox"));
    await user.type(screen.getByRole("searchbox"), "trombone");
    expect(text.textContent).toContain("nothing with “trombone”");
  });

  it("tells a student what is theirs, and no teacher's work", () => {
    const titles = foundChapters("student", "").map((c) => c.title);
    expect(titles).toContain("Your practice day");
    expect(titles).not.toContain("An evening at the Desk");
    shown(<HelpPage me={STUDENT} />, { at: "/help" });
    expect(screen.getByText(/Do not practise through pain/)).toBeTruthy();
  });

  it("says of every value what it is and how exact, in sentences", () => {
    for (const value of Object.values(VALUES)) {
      expect(value.is).toMatch(/^[A-Z].*\.$/s);
      expect(value.exact).toMatch(/^[A-Z].*\.$/s);
    }
  });
});

describe("a value on the sheet", () => {
  it("opens what it is, with a way to hear it and to the handbook", async () => {
    await openSheet();
    const inspector = within(screen.getByTestId("inspector"));
    fireEvent.click(inspector.getByRole("button", { name: "Error" }));
    const about = within(await screen.findByRole("dialog"));
    expect(about.getByText(VALUES.bend.is)).toBeTruthy();
    expect(about.getByRole("button", { name: "Hear it 30 cents flat" })).toBeTruthy();
    expect(about.getByRole("link", { name: "In the handbook" }).getAttribute("href")).toBe(
      "/help#value-bend",
    );
  });
});
