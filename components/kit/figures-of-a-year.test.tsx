import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import type { WaterWindow } from "@/core/site-file/schema";
import { MonthsField } from "./months-field";
import { WindowList } from "./window-list";

function Months({
  first,
  usual = 0,
  onCommit,
}: {
  first?: number[];
  usual?: number | undefined;
  onCommit: (value: number[] | undefined) => void;
}) {
  const [value, setValue] = useState(first);
  return (
    <MonthsField
      label="Budget"
      unit="m³"
      value={value}
      usual={usual === -1 ? undefined : usual}
      max={900}
      onCommit={(v) => {
        setValue(v);
        onCommit(v);
      }}
    />
  );
}
const month = (name: string): HTMLInputElement => screen.getByRole("textbox", { name: `Budget, ${name}, m³` });

describe("twelve figures of a year", () => {
  it("one typed makes the others what is usual; a sum is worked out", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(<Months onCommit={onCommit} />);
    await user.type(month("Jul"), "2*60{Enter}");
    expect(onCommit).toHaveBeenLastCalledWith([0, 0, 0, 0, 0, 0, 120, 0, 0, 0, 0, 0]);
    expect(month("Jul")).toHaveValue("120");
    expect(month("Jan")).toHaveValue("0");
  });
  it("one that cannot be names its month and hands nothing on", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(<Months first={Array(12).fill(5)} onCommit={onCommit} />);
    await user.clear(month("Mar"));
    await user.type(month("Mar"), "901");
    await user.tab();
    expect(screen.getByRole("alert")).toHaveTextContent('Mar: "901" must be a figure from 0 to 900 m³.');
    expect(month("Mar")).toBeInvalid();
    expect(month("Apr")).toBeValid();
    expect(onCommit).not.toHaveBeenCalled();
    await user.clear(month("Mar"));
    await user.type(month("Mar"), "900{Enter}");
    expect(screen.queryByRole("alert")).toBeNull();
    expect(onCommit).toHaveBeenCalledOnce();
  });
  it("that mean nothing unless somebody gives them, are asked for one and all", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(<Months usual={-1} onCommit={onCommit} />);
    await user.type(month("Jul"), "40{Enter}");
    expect(screen.getByRole("alert")).toHaveTextContent("Jan is empty: give every month. 0 means none in it.");
    expect(onCommit).not.toHaveBeenCalled();
    await user.type(month("Jan"), "0");
    await user.click(screen.getByRole("button", { name: "0 m³ in the 10 empty ones" }));
    expect(onCommit).toHaveBeenLastCalledWith([0, 0, 0, 0, 0, 0, 40, 0, 0, 0, 0, 0]);
    expect(screen.queryByRole("alert")).toBeNull();
    expect(screen.queryByRole("button")).toBeNull();
  });
  it("all emptied is none; left as they are, they are not touched", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(<Months first={[1, ...Array(11).fill(0)]} onCommit={onCommit} />);
    await user.click(month("May"));
    await user.tab();
    expect(onCommit).not.toHaveBeenCalled();
    for (const box of screen.getAllByRole("textbox")) await user.clear(box);
    await user.tab();
    expect(onCommit).toHaveBeenLastCalledWith(undefined);
  });
});

function Hours({ first, onCommit }: { first?: WaterWindow[]; onCommit: (value: WaterWindow[] | undefined) => void }) {
  const [value, setValue] = useState(first);
  return (
    <WindowList
      label="Hours"
      value={value}
      onCommit={(v) => {
        setValue(v);
        onCommit(v);
      }}
    />
  );
}

describe("hours of the week", () => {
  it("are added as a night, changed, and say when they end on the next day", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(<Hours onCommit={onCommit} />);
    await user.click(screen.getByRole("button", { name: "hours" }));
    expect(onCommit).toHaveBeenLastCalledWith([{ from: "22:00", to: "06:00" }]);
    expect(screen.getByText("next day")).toBeInTheDocument();
    const to = screen.getByRole("textbox", { name: "Hours: to" });
    await user.clear(to);
    await user.type(to, "2330{Enter}");
    expect(onCommit).toHaveBeenLastCalledWith([{ from: "22:00", to: "23:30" }]);
    expect(screen.queryByText("next day")).toBeNull();
  });
  it("begin on every day, or on those that are pressed; all seven are no choice at all", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(<Hours first={[{ from: "22:00", to: "06:00" }]} onCommit={onCommit} />);
    const days = within(screen.getByRole("group", { name: "Hours: begins on" }));
    expect(days.getAllByRole("button").every((b) => b.getAttribute("aria-pressed") === "true")).toBe(true);
    await user.click(days.getByRole("button", { name: "Sun" }));
    expect(onCommit.mock.lastCall?.[0]?.[0].days).toEqual(["mon", "tue", "wed", "thu", "fri", "sat"]);
    await user.click(days.getByRole("button", { name: "Sun" }));
    expect(onCommit).toHaveBeenLastCalledWith([{ from: "22:00", to: "06:00" }]);
  });
  it("the last removed, there are none: the others keep their own figures", async () => {
    const onCommit = vi.fn();
    const user = userEvent.setup();
    render(
      <Hours
        first={[
          { from: "20:00", to: "23:00" },
          { from: "02:00", to: "05:00" },
        ]}
        onCommit={onCommit}
      />,
    );
    await user.click(screen.getAllByRole("button", { name: "Remove" })[0] as HTMLElement);
    expect(onCommit).toHaveBeenLastCalledWith([{ from: "02:00", to: "05:00" }]);
    expect(screen.getByRole("textbox", { name: "Hours: from" })).toHaveValue("02:00");
    await user.click(screen.getByRole("button", { name: "Remove" }));
    expect(onCommit).toHaveBeenLastCalledWith(undefined);
  });
});
