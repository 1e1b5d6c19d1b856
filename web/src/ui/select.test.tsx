import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { Select } from "./Select";

const DRILLS = [
  ...["Bend, half", "Bend, whole", "Legato 3+3"].flatMap((name) =>
    ["5", "7", "9"].map((fret) => `${name}: string 3, fret ${fret}`),
  ),
  ...Array.from({ length: 12 }, (_, i) => `Sweep in key ${i + 1}`),
];

function Form({ names, asked }: { names: string[]; asked: (value: string) => void }) {
  const [value, setValue] = useState("");
  return (
    <Select
      label="Which drill"
      value={value}
      onChange={(to) => {
        asked(to);
        setValue(to);
      }}
      choices={names.map((label, i) => ({ value: `id-${i}`, label }))}
    />
  );
}

const field = () => screen.getByRole("combobox", { name: "Which drill" });
const options = () => screen.getAllByRole("option").map((option) => option.textContent);

describe("one of many", () => {
  it("is found by any words of its name and taken by keyboard", async () => {
    const user = userEvent.setup();
    const asked = vi.fn();
    render(<Form names={DRILLS} asked={asked} />);
    expect(field().textContent).toBe("Choose");
    await user.tab();
    await user.keyboard("{Enter}");
    expect(options()).toHaveLength(DRILLS.length);
    await user.keyboard("7 WHOLE");
    expect(options()).toEqual(["Bend, whole: string 3, fret 7"]);
    await user.keyboard("{Enter}");
    expect(asked.mock.calls).toEqual([[`id-${DRILLS.indexOf("Bend, whole: string 3, fret 7")}`]]);
    expect(screen.queryByRole("option")).toBeNull();
    expect(field().textContent).toBe("Bend, whole: string 3, fret 7");
    expect(document.activeElement).toBe(field());
  });

  it("keeps the order of the list, and begins at what is chosen", async () => {
    const user = userEvent.setup();
    const asked = vi.fn();
    render(<Form names={DRILLS} asked={asked} />);
    await user.click(field());
    await user.keyboard("half");
    expect(options()).toEqual(DRILLS.slice(0, 3));
    await user.keyboard("{ArrowDown}{ArrowDown}{Enter}");
    await user.click(field());
    // Nothing typed is left from before, and one step down is the next.
    expect(options()).toHaveLength(DRILLS.length);
    await user.keyboard("{ArrowDown}{Enter}");
    expect(asked.mock.calls).toEqual([["id-2"], ["id-3"]]);
  });

  it("is opened by the arrows, as a short list is", async () => {
    const user = userEvent.setup();
    const asked = vi.fn();
    render(<Form names={DRILLS} asked={asked} />);
    await user.tab();
    await user.keyboard("{ArrowDown}");
    expect(options()).toHaveLength(DRILLS.length);
    await user.keyboard("{ArrowDown}{Enter}");
    expect(asked.mock.calls).toEqual([["id-1"]]);
  });

  it("says when nothing fits, and is left as it was by Escape", async () => {
    const user = userEvent.setup();
    const asked = vi.fn();
    render(<Form names={DRILLS} asked={asked} />);
    await user.click(field());
    await user.keyboard("octave");
    expect(screen.getByText("Nothing here holds these words.")).toBeTruthy();
    expect(screen.queryByRole("option")).toBeNull();
    await user.keyboard("{Enter}{Escape}");
    expect(screen.queryByRole("listbox")).toBeNull();
    expect(asked).not.toHaveBeenCalled();
    expect(field().textContent).toBe("Choose");
  });
});

describe("one of a few", () => {
  it("is a plain list without a search", async () => {
    const user = userEvent.setup();
    const asked = vi.fn();
    render(<Form names={DRILLS.slice(0, 20)} asked={asked} />);
    await user.click(field());
    const list = screen.getByRole("listbox");
    expect(screen.queryByPlaceholderText("Search")).toBeNull();
    await user.click(within(list).getByRole("option", { name: "Bend, whole: string 3, fret 9" }));
    expect(asked.mock.calls).toEqual([["id-5"]]);
  });

  it("of nothing cannot be opened", () => {
    render(<Form names={[]} asked={vi.fn()} />);
    expect((field() as HTMLButtonElement).disabled).toBe(true);
  });
});
