import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { shown } from "~/testing/shown";
import { SetMembers } from "./SetMembers";

describe("the drills of a set", () => {
  it("stand with their counts and share", () => {
    const member = { title: "position 5", asked: 12, clean: 9, not_clean: 2, unclear: 1, missed: 0 };
    shown(<SetMembers summary={{ members: [member] } as never} />);
    const cells = screen.getAllByRole("cell").map((c) => c.textContent);
    expect(cells.slice(0, 5)).toEqual(["position 5", "9 of 12", "2", "1", "0"]);
    const bar = screen.getByTestId("set-members").querySelector<HTMLElement>("[style]");
    expect(bar?.style.width).toBe("75%");
  });

  it("are not there where there is no set", () => {
    shown(<SetMembers summary={{ members: [] } as never} />);
    expect(screen.queryByTestId("set-members")).toBeNull();
  });
});
