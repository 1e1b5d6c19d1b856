import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { plugInSound, started } from "~/testing/audio";
import { measured, openSheet } from "~/testing/sheet";
import { sheetNotes } from "~/ui/take/notes.math";
import { places } from "./mend.math";

const narrow = (on: boolean) =>
  vi.stubGlobal("matchMedia", (query: string) => ({
    matches: on && query.includes("max-width"),
    addEventListener: () => {},
    removeEventListener: () => {},
  }));

beforeEach(() => {
  plugInSound();
  vi.spyOn(window, "scrollTo").mockImplementation(() => {});
});

afterEach(() => {
  vi.unstubAllGlobals();
});

describe("places to mend", () => {
  it("are told once with their repeats, the most often off first", () => {
    const found = places(sheetNotes(measured()));
    expect(found[0]?.note.note.id).toBe("bend");
    expect(found[0]?.repeats).toEqual([1, 2, 3]);
    const errors = measured()
      .analysis.notes.filter((n) => n.id === "bend")
      .map((n) => Math.abs(n.bend?.error_cents ?? 0));
    expect(Math.abs(found[0]?.note.note.bend?.error_cents ?? 0)).toBe(Math.max(...errors));
  });

  it("of a clean take are none", () => {
    const clean = measured();
    for (const note of clean.analysis.notes) note.clean = "inside";
    expect(places(sheetNotes(clean))).toEqual([]);
  });
});

describe("the sheet on a phone", () => {
  it("is a list to be heard, with the full sheet a press away", async () => {
    narrow(true);
    await openSheet();
    const list = within(screen.getByTestId("mend"));
    const [first] = list.getAllByRole("listitem");
    expect(first?.textContent).toContain("cents flat");
    expect(first?.textContent).toContain("repeats 1, 2, 3");
    expect(screen.queryByTestId("strips")).toBeNull();
    const play = within(first as HTMLElement).getByRole<HTMLButtonElement>("button", {
      name: /^Play repeat/,
    });
    await waitFor(() => expect(play.disabled).toBe(false));
    fireEvent.click(play);
    await waitFor(() => expect(started).not.toHaveLength(0));
    fireEvent.click(list.getByRole("button", { name: "Show the full sheet" }));
    expect(screen.getByTestId("strips")).toBeTruthy();
    expect(screen.queryByTestId("mend")).toBeNull();
  });

  it("elsewhere is the full sheet at once", async () => {
    narrow(false);
    await openSheet();
    expect(screen.queryByTestId("mend")).toBeNull();
    expect(screen.getByTestId("strips")).toBeTruthy();
  });
});
