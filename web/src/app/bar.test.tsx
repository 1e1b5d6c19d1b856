import { fireEvent, render, screen } from "@testing-library/react";
import { Music } from "lucide-react";
import { MemoryRouter } from "react-router";
import { describe, expect, it } from "vitest";
import { Bar } from "./Bar";

const PLACES = ["/", "/record", "/takes", "/progress", "/plan", "/account"].map((to) => ({
  to,
  label: to === "/" ? "Today" : to.slice(1),
  icon: Music,
}));

function shown(at: string) {
  render(
    <MemoryRouter initialEntries={[at]}>
      <Bar places={PLACES} />
    </MemoryRouter>,
  );
}

describe("the bar of a phone", () => {
  it("has four places in reach, and the others behind More until one of them is opened", () => {
    shown("/takes");
    expect(screen.getAllByRole("link").map((a) => a.textContent)).toEqual([
      "Today",
      "record",
      "takes",
      "progress",
    ]);
    expect(screen.getByRole("link", { name: "takes" }).getAttribute("aria-current")).toBe("page");
    const more = screen.getByRole("button", { name: "More" });
    expect(more.getAttribute("aria-expanded")).toBe("false");
    fireEvent.click(more);
    expect(more.getAttribute("aria-expanded")).toBe("true");
    fireEvent.click(screen.getByRole("link", { name: "plan" }));
    expect(screen.queryByRole("link", { name: "account" })).toBeNull();
    expect(screen.getByRole("button", { name: "More" }).getAttribute("aria-expanded")).toBe("false");
  });
});
