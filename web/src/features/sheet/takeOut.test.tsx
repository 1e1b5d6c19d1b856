import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { shown } from "~/testing/shown";
import { TakeOut } from "./TakeOut";

describe("the files of a take", () => {
  it("are downloads of open formats, the recording among them", async () => {
    const user = userEvent.setup();
    shown(<TakeOut id="one" recording />);
    await user.click(screen.getByTestId("take-out"));
    const items = await screen.findAllByRole("menuitem");
    await waitFor(() => expect(items).toHaveLength(7));
    expect(items.map((i) => i.getAttribute("href"))).toEqual([
      ...["notes", "analysis", "jams", "midi", "clicks", "contour"].map(
        (f) => `/api/v1/takes/one/export/${f}`,
      ),
      "/api/v1/takes/one/original",
    ]);
    expect(items.every((i) => i.hasAttribute("download"))).toBe(true);
  });

  it("are without the recording once it is deleted", async () => {
    const user = userEvent.setup();
    shown(<TakeOut id="one" recording={false} />);
    await user.click(screen.getByTestId("take-out"));
    const items = await screen.findAllByRole("menuitem");
    expect(items.some((i) => i.getAttribute("href")?.endsWith("/original"))).toBe(false);
    expect(items).toHaveLength(6);
  });
});
