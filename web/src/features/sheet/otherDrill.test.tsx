import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { STUDENT } from "~/testing/made";
import { aTrialWaits, button, exampleTake, measured, openSheet } from "~/testing/sheet";
import { answers, refused, sent } from "~/testing/wire";

const heard = (drills: object[], problem = "") => ({ id: "g", state: "heard", drills, problem });
const OTHER = { drill_id: 8, share: 0.957 };

beforeEach(aTrialWaits);

/** A take of which half has another pitch. */
function unlikeItsDrill() {
  const now = measured();
  now.take = exampleTake();
  now.analysis.notes = now.analysis.notes.map((n, i) => (i % 2 ? { ...n, status: "wrong_pitch" } : n));
  return now;
}

const asked = () => screen.queryByRole("region", { name: "Another drill?" });

describe("a take that may be of another drill", () => {
  it("is asked about, and shows what measuring it against the one that fits would do", async () => {
    const far = { drill_id: 7, share: 0.7 };
    answers({ "POST /api/v1/takes/{take_id}/guesses": heard([OTHER, { drill_id: 999, share: 0.9 }, far]) });
    await openSheet({ now: unlikeItsDrill() });
    expect(asked()?.textContent).toMatch(/Of its \d+ notes \d+ have another pitch/);
    fireEvent.click(button("Find the drill that fits"));
    // A drill that was put away meanwhile is not offered, nor one that fits far less.
    expect((await screen.findByText("Scale in thirds")).closest("ul")?.textContent).toBe(
      "Scale in thirds: 96 % of the notes fitShow the effect",
    );
    fireEvent.click(button("Show the effect: Scale in thirds"));
    await waitFor(() => expect(sent().at(-1)?.path).toBe("/api/v1/takes/one/trials"));
    expect(sent().at(-1)?.body).toMatchObject({ drill_id: 8 });
  });

  it("is left alone where no other fits better than its own", async () => {
    const now = unlikeItsDrill();
    const own = { drill_id: now.take.drill_id, share: 0.96 };
    answers({ "POST /api/v1/takes/{take_id}/guesses": heard([own, OTHER]) });
    await openSheet({ now });
    fireEvent.click(button("Find the drill that fits"));
    expect(await screen.findByText(/No other drill fits its notes better/)).toBeTruthy();
  });

  it("says why it could not be heard", async () => {
    answers({ "POST /api/v1/takes/{take_id}/guesses": heard([], "Hearing this recording broke off.") });
    await openSheet({ now: unlikeItsDrill() });
    fireEvent.click(button("Find the drill that fits"));
    expect(await screen.findByText("Hearing this recording broke off.")).toBeTruthy();
  });

  it("says why it was not let in", async () => {
    answers({ "POST /api/v1/takes/{take_id}/guesses": refused(429, "Wait a while, then go on.") });
    await openSheet({ now: unlikeItsDrill() });
    fireEvent.click(button("Find the drill that fits"));
    expect(await screen.findByText("Wait a while, then go on.")).toBeTruthy();
    expect(button("Find the drill that fits").disabled).toBe(false);
  });

  it("is not asked about where it fits, and a student is told without being asked to choose", async () => {
    const { unmount } = await openSheet();
    expect(asked()).toBeNull();
    unmount();
    await openSheet({ now: unlikeItsDrill(), me: STUDENT });
    expect(asked()?.textContent).toContain("Was another drill played?");
    expect(button("Find the drill that fits", true)).toBeNull();
  });
});
