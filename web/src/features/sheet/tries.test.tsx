import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { STUDENT } from "~/testing/made";
import { aTrialWaits, button, measured, openSheet } from "~/testing/sheet";
import { sent } from "~/testing/wire";

beforeEach(aTrialWaits);

/** A take whose first repeat was begun twice. */
function begunAgain() {
  const now = measured();
  const own = now.analysis.notes.filter((n) => n.repeat === 0 && n.onset_s !== null).slice(0, 2);
  now.analysis.attempts = [
    {
      repeat: 0,
      from_id: own[0]?.id ?? "",
      to_id: own[1]?.id ?? "",
      place: "the first bar",
      notes: 2,
      from_s: 0.1,
      to_s: 0.4,
      heard: own.map((n, i) => ({ id: n.id, repeat: 0, at_s: 0.1 + 0.2 * i })),
    },
  ];
  return { now, onsets: own.map((n) => n.onset_s as number) };
}

const pins = () => (sent()[0]?.body as { pins: unknown[] } | undefined)?.pins;

describe("tries on the sheet", () => {
  it("are counted, drawn, heard, and one may count instead", async () => {
    const { now, onsets } = begunAgain();
    await openSheet({ now });
    expect(screen.getByTestId("tries-taken").textContent).toMatch(/Repeat 1 took 2 tries/);
    expect(screen.getByTestId("not-counted").textContent).toBe("broken off");
    fireEvent.click(button("Count this try instead: Repeat 1, the first bar: broken off after 2 notes"));
    await waitFor(() => expect(pins()).toHaveLength(1));
    expect(pins()?.[0]).toMatchObject({
      id: null,
      at_s: expect.closeTo(Math.min(...onsets) - 0.02),
      to_s: expect.closeTo(Math.max(...onsets) + 0.02),
    });
  });

  it("are for a student to see and hear", async () => {
    await openSheet({ now: begunAgain().now, me: STUDENT });
    expect(screen.getByTestId("tries-taken")).toBeTruthy();
    expect(
      button("Count this try instead: Repeat 1, the first bar: broken off after 2 notes", true),
    ).toBeNull();
    expect(screen.queryByTestId("heard-handle")).toBeNull();
    expect(screen.queryByTestId("stretch")).toBeNull();
  });
});

describe("a part of the recording", () => {
  const say = (label: string, text: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value: text } });

  it("is left out by its seconds, and counts again", async () => {
    const now = measured();
    now.pins = [{ id: null, repeat: 0, at_s: 0.5, to_s: 0.9 }];
    await openSheet({ now });
    expect(screen.getByTestId("left-out").textContent).toMatch(/0.5 to 0.9 s/);
    say("From", "1");
    say("To", "2.5");
    fireEvent.click(button("Not part of the drill"));
    await waitFor(() => expect(pins()).toHaveLength(2));
    expect(pins()?.[1]).toMatchObject({ id: null, at_s: 1, to_s: 2.5 });
  });

  it("is refused in a sentence where the times make no stretch", async () => {
    await openSheet();
    say("From", "3");
    say("To", "2");
    fireEvent.click(button("Not part of the drill"));
    expect((await screen.findByRole("alert")).textContent).toMatch(/the earlier one first/);
    expect(sent()).toHaveLength(0);
  });

  it("is marked by dragging over the waveform", async () => {
    await openSheet();
    const wave = document.querySelector("[data-testid=waveform]") as Element;
    fireEvent.pointerDown(wave, { clientX: 100, button: 0, buttons: 1 });
    fireEvent.pointerMove(wave, { clientX: 180, buttons: 1 });
    expect(screen.getByTestId("marked")).toBeTruthy();
    fireEvent.pointerUp(wave, { clientX: 180 });
    expect(screen.getByTestId("stretch").hasAttribute("open")).toBe(true);
    expect(Number((screen.getByLabelText("To") as HTMLInputElement).value)).toBeGreaterThan(
      Number((screen.getByLabelText("From") as HTMLInputElement).value),
    );
  });
});

describe("the handle of the selected note", () => {
  it("is dragged to the sound that is the note; let go where it was, nothing is asked", async () => {
    await openSheet();
    const handle = screen.getByTestId("heard-handle");
    handle.setPointerCapture = () => {};
    fireEvent.pointerDown(handle, { clientX: 100, buttons: 1 });
    fireEvent.pointerUp(handle, { clientX: 100 });
    expect(sent()).toHaveLength(0);
    fireEvent.pointerDown(handle, { clientX: 100, buttons: 1 });
    fireEvent.pointerMove(handle, { clientX: 400, buttons: 1 });
    fireEvent.pointerUp(handle, { clientX: 400 });
    await waitFor(() => expect(pins()).toHaveLength(1));
    expect(pins()?.[0]).toMatchObject({ id: "bend" });
  });
});
