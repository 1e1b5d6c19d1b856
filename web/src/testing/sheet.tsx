/** A take's page with its real sheet, on the example the server wrote (measured.json; tests/server/test_sheet_example.py). */
import { fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { vi } from "vitest";
import type { Curves, Me, Take, TakeMeasured } from "~/api/client";
import { TakePage } from "~/features/sheet/TakePage";
import { plugInSound } from "./audio";
import { drill, TEACHER } from "./made";
import example from "./measured.json";
import { shown } from "./shown";
import { answers } from "./wire";

/** A copy that a test may change. */
export function measured(): TakeMeasured {
  return structuredClone(example.measured) as unknown as TakeMeasured;
}

export const CURVES = example.curves as unknown as Curves;

/** The take of the example, as lists show it. */
export function exampleTake(part: Partial<Take> = {}): Take {
  return { ...measured().take, id: "one", ...part };
}

/** What the server answers for the take "one" and for the others of the Desk. */
export function sheetAnswers(of: () => TakeMeasured, rows: () => object[] = () => [{ ...of().take }]) {
  const other = (path: string) => exampleTake({ id: path.split("/")[4] ?? "two" });
  return {
    "GET /api/v1/takes/{take_id}": ({ path }: { path: string }) =>
      path.endsWith("/one") ? of().take : other(path),
    "GET /api/v1/takes/{take_id}/analysis": ({ path }: { path: string }) =>
      path.includes("/one/") ? of() : { ...measured(), take: other(path) },
    "GET /api/v1/takes/{take_id}/curves": CURVES,
    "GET /api/v1/takes/{take_id}/sound": () => new Response(new ArrayBuffer(8)),
    "GET /api/v1/takes/desk": () => ({
      rows: rows(),
      total: rows().length,
      counts: { waiting: rows().length, judged: 0, unfinished: 0, refused: 0 },
    }),
    "GET /api/v1/drills": [drill(), drill({ id: 8, title: "Scale in thirds" })],
  };
}

/** Open the sheet and wait until it is there; now: what the server holds, changed by a test as the server would. */
export async function openSheet({ me = TEACHER, now = measured() }: { me?: Me; now?: TakeMeasured } = {}) {
  now.take = { ...now.take, id: "one" };
  const server = { now };
  answers(sheetAnswers(() => server.now));
  const { unmount } = shown(<TakePage me={me} />, { at: "/takes/one", path: "/takes/:id" });
  await screen.findByTestId("sheet");
  return { server, user: userEvent.setup(), unmount };
}

/** Before a test that tries something on the sheet: sound is there, and a trial that is begun waits. */
export function aTrialWaits() {
  plugInSound();
  vi.spyOn(window, "scrollTo").mockImplementation(() => {});
  const trial = { id: "t", state: "waiting" };
  answers({
    "POST /api/v1/takes/{take_id}/trials": trial,
    "GET /api/v1/takes/{take_id}/trials/{trial_id}": trial,
  });
}

/** "bend@1" of the selected row. */
export function selectedNote(): string | null {
  return document.querySelector("tr[aria-current=true][data-note]")?.getAttribute("data-note") ?? null;
}

/** Keys as the sheet hears them: "n", "Shift+ArrowRight", "Control+z". Typing into a field is the user's own. */
export function press(...keys: string[]): void {
  for (const pressed of keys) {
    const parts = pressed === "+" ? ["+"] : pressed.split("+");
    const held = (name: string) => parts.slice(0, -1).includes(name);
    fireEvent.keyDown(document.activeElement ?? document.body, {
      key: parts.at(-1),
      shiftKey: held("Shift"),
      ctrlKey: held("Control"),
      altKey: held("Alt"),
    });
  }
}

/** The button of this name; a role query asks the whole sheet for its names, which takes seconds. */
export function button(name: string, maybe: true): HTMLButtonElement | null;
export function button(name: string): HTMLButtonElement;
export function button(name: string, maybe = false): HTMLButtonElement | null {
  const all = [...document.querySelectorAll("button")];
  const found = all.find((b) => (b.getAttribute("aria-label") ?? b.textContent?.trim()) === name) ?? null;
  if (!found && !maybe) throw new Error(`There is no button ${name}.`);
  return found;
}
