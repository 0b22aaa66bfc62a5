import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { ConventionsProvider } from "./conventions";
import { DateField } from "./date-field";
import { ChoiceField, NumberField, TextField, TickField } from "./fields";
import { TimeField } from "./time-field";

const write = async (name: string | RegExp, text: string): Promise<void> => {
  const user = userEvent.setup();
  const field = screen.getByRole("textbox", { name });
  await user.clear(field);
  await user.type(field, `${text}{Enter}`);
};

describe("a number", () => {
  it("says its unit, takes a sum, and hands on the base unit", async () => {
    const onCommit = vi.fn();
    render(<NumberField label="Flow" value={undefined} quantity="flow" system="us" onCommit={onCommit} />);
    await write("Flow, gal/min", "3*10");
    expect(onCommit).toHaveBeenCalledTimes(1);
    expect(onCommit.mock.calls[0]?.[0]).toBeCloseTo(113.562, 2);
  });

  it.each([
    ["many", '"many" is not a number'],
    ["0", "Stations at once must be at least 1 and at most 20."],
    ["21", "Stations at once must be at least 1 and at most 20."],
    ["2.5", "Stations at once must be a whole number."],
    ["", "Stations at once is needed."],
  ])("refuses %s in words, changes nothing, and Escape puts back what stood", async (text, why) => {
    const onCommit = vi.fn();
    render(<NumberField label="Stations at once" value={4} min={1} max={20} whole required onCommit={onCommit} />);
    const field = screen.getByRole("textbox");
    const user = userEvent.setup();
    await user.clear(field);
    if (text) await user.type(field, text);
    await user.tab();
    expect(screen.getByRole("alert")).toHaveTextContent(why);
    expect(field).toHaveAttribute("aria-invalid", "true");
    expect(field).toHaveAccessibleDescription(why.startsWith('"') ? /is not a number/ : why);
    await user.click(field);
    await user.keyboard("{Escape}");
    expect(field).toHaveValue("4");
    expect(screen.queryByRole("alert")).toBeNull();
    expect(onCommit).not.toHaveBeenCalled();
  });

  it("emptied where it may be, is no figure", async () => {
    const onCommit = vi.fn();
    render(<NumberField label="Area" unit="m²" value={12} onCommit={onCommit} />);
    const user = userEvent.setup();
    await user.clear(screen.getByRole("textbox", { name: "Area, m²" }));
    await user.tab();
    expect(onCommit).toHaveBeenCalledExactlyOnceWith(undefined);
  });
});

describe("a number that was converted", () => {
  const shown = (value: number, system: "us" | "metric" = "us"): string => {
    const { unmount } = render(
      <NumberField label="Flow" value={value} quantity="flow" system={system} onCommit={() => {}} />,
    );
    const text = (screen.getByRole("textbox") as HTMLInputElement).value;
    unmount();
    return text;
  };
  it("does not trail the noise of its conversion, and what was typed stands as typed", () => {
    expect(shown(16)).toBe("4.2268");
    expect(shown(10 * 3.785411784)).toBe("10");
    expect(shown(1234.56 * 3.785411784)).toBe("1234.56");
    expect(shown(0)).toBe("0");
    expect(shown(453.2981, "metric")).toBe("453.2981");
  });
  it("left alone, is not touched: its last digits stay", async () => {
    const onCommit = vi.fn();
    render(<NumberField label="Flow" value={16} quantity="flow" system="us" onCommit={onCommit} />);
    const user = userEvent.setup();
    await user.click(screen.getByRole("textbox"));
    await user.tab();
    expect(onCommit).not.toHaveBeenCalled();
  });
  it("that is empty shows what holds then, in its own units", () => {
    render(
      <NumberField
        label="Largest"
        value={undefined}
        whenEmpty={1716}
        quantity="flow"
        system="us"
        onCommit={() => {}}
      />,
    );
    expect(screen.getByRole("textbox")).toHaveValue("");
    expect(screen.getByRole("textbox")).toHaveAttribute("placeholder", "453");
  });
});

describe("words, choices and ticks", () => {
  it("a text is taken on leaving, and Escape puts it back", async () => {
    const onCommit = vi.fn();
    render(<TextField label="Name" value="Gate" onCommit={onCommit} />);
    const field = screen.getByRole("textbox", { name: "Name" });
    const user = userEvent.setup();
    await user.type(field, " lawn{Escape}");
    expect(field).toHaveValue("Gate");
    await user.type(field, " lawn");
    await user.tab();
    expect(onCommit).toHaveBeenCalledExactlyOnceWith("Gate lawn");
  });

  it("a choice and a tick hand on what was chosen", async () => {
    const [chosen, ticked] = [vi.fn(), vi.fn()];
    render(
      <>
        <ChoiceField
          label="Kind"
          value="a"
          options={[
            ["a", "first"],
            ["b", "second"],
          ]}
          hint="as the sheet says"
          onCommit={chosen}
        />
        <TickField label="in use" checked onCommit={ticked} />
      </>,
    );
    const user = userEvent.setup();
    expect(screen.getByRole("combobox", { name: "Kind" })).toHaveAccessibleDescription("as the sheet says");
    await user.selectOptions(screen.getByRole("combobox", { name: "Kind" }), "second");
    await user.click(screen.getByRole("checkbox", { name: "in use" }));
    expect(chosen).toHaveBeenCalledWith("b");
    expect(ticked).toHaveBeenCalledWith(false);
  });
});

describe("a date", () => {
  const field = (onCommit: (v: string | undefined) => void, more: Partial<Parameters<typeof DateField>[0]> = {}) =>
    render(
      <ConventionsProvider system="us">
        <DateField label="Held until" value="2026-07-04" onCommit={onCommit} {...more} />
      </ConventionsProvider>,
    );

  it("reads as the site writes dates, and understands both ways of writing", async () => {
    const onCommit = vi.fn();
    field(onCommit);
    expect(screen.getByRole("textbox", { name: "Held until" })).toHaveValue("Jul 4, 2026");
    await write("Held until", "2026-07-09");
    expect(onCommit).toHaveBeenLastCalledWith("2026-07-09");
    await write("Held until", "Aug 1, 2026");
    expect(onCommit).toHaveBeenLastCalledWith("2026-08-01");
  });

  it("refuses what is no date, and one before the least", async () => {
    const onCommit = vi.fn();
    field(onCommit, { min: "2026-07-01" });
    await write("Held until", "soon");
    expect(screen.getByRole("alert")).toHaveTextContent('"soon" is not a date');
    await write("Held until", "2026-06-30");
    expect(screen.getByRole("alert")).toHaveTextContent("Held until must be Jul 1, 2026 or later.");
    expect(onCommit).not.toHaveBeenCalled();
  });

  it("is chosen on a calendar, which Escape closes", async () => {
    const onCommit = vi.fn();
    field(onCommit);
    const user = userEvent.setup();
    const calendar = screen.getByRole("button", { name: "Held until: calendar" });
    await user.click(calendar);
    expect(await screen.findByRole("grid")).toBeInTheDocument();
    await user.keyboard("{Escape}");
    expect(screen.queryByRole("grid")).toBeNull();
    await user.click(calendar);
    await user.click(screen.getByRole("button", { name: /July 17/ }));
    expect(onCommit).toHaveBeenCalledExactlyOnceWith("2026-07-17");
    expect(screen.queryByRole("grid")).toBeNull();
  });
});

describe("a time", () => {
  it.each([
    ["2130", "21:30"],
    ["9.30 pm", "21:30"],
    ["6:05", "06:05"],
  ])("%s is understood", async (text, time) => {
    const onCommit = vi.fn();
    render(<TimeField label="Start" value="22:00" onCommit={onCommit} />);
    await write("Start", text);
    expect(onCommit).toHaveBeenLastCalledWith(time);
  });

  it("steps by a quarter of an hour with the arrows, past midnight too, and refuses 25:00", async () => {
    const onCommit = vi.fn();
    render(<TimeField label="Start" value="23:50" onCommit={onCommit} />);
    const user = userEvent.setup();
    await user.click(screen.getByRole("textbox"));
    await user.keyboard("{ArrowUp}");
    expect(onCommit).toHaveBeenLastCalledWith("00:05");
    await write("Start", "25:00");
    expect(screen.getByRole("alert")).toHaveTextContent('"25:00" is not a time of day');
    expect(onCommit).toHaveBeenCalledTimes(1);
  });
});
