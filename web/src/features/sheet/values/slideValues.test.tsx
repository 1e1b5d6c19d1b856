import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { shown } from "~/testing/shown";
import { SlideValues } from "./PitchValues";

const SLIDE = {
  travel_ms: 201.2,
  arrives_s: 3,
  level_change_db: -2.5,
  late_ms: null,
  u: 12.6,
  verdict: "inside" as const,
};

describe("a slide", () => {
  it("says how long it travels and what it keeps, and lateness only where it was asked", () => {
    shown(<SlideValues slide={SLIDE} />);
    expect(screen.getByText("Slide, on its way for").closest("tr")?.textContent).toContain("201");
    expect(screen.queryByText("Slide, there later than asked")).toBeNull();
  });

  it("says how late it is there", () => {
    shown(<SlideValues slide={{ ...SLIDE, late_ms: 40 }} />);
    expect(screen.getByText("Slide, there later than asked").closest("tr")?.textContent).toContain("40");
  });
});
