import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Days } from "@/core/dates/day-rules";
import type { Program, SiteFile } from "@/core/site-file/schema";
import { isOn, startAt } from "@/core/site-file/starts";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { useWorkspace } from "../../draft/site-draft";
import { ProgramFindings, ProgramHow, ProgramWhen } from "./program-settings";
import { RunMatrix } from "./run-matrix";

const first = (site: SiteFile): Program => site.programs[0] as Program;
/** A part of the first program, drawn anew with every edit, as its screen does. */
function Of({ part: Part }: { part: React.ComponentType<{ program: Program }> }) {
  const { draft } = useWorkspace("draft");
  return <Part program={first(draft)} />;
}
const withDays = (days: Days): SiteFile => smallSite((s) => Object.assign(first(s), { days }));

describe("when a program runs", () => {
  it("a start is switched off and kept, moved, added and removed", async () => {
    const { user, now } = renderOnSite(smallSite(), <Of part={ProgramWhen} />);
    await user.click(screen.getByRole("switch", { name: "Start 22:00 is on" }));
    expect(isOn(first(now()).starts[0] as never)).toBe(false);
    const start = screen.getByRole("textbox", { name: "Start 1" });
    await user.clear(start);
    await user.type(start, "21:15{Enter}");
    expect(startAt(first(now()).starts[0] as never)).toBe("21:15");
    expect(isOn(first(now()).starts[0] as never)).toBe(false);
    await user.click(screen.getByRole("button", { name: "Start" }));
    expect(first(now()).starts).toHaveLength(2);
    await user.click(screen.getByRole("button", { name: "Remove start 21:15" }));
    expect(first(now()).starts).toEqual(["04:00"]);
  });

  it("weekdays are pressed in and out, in the order of the week", async () => {
    const { user, now } = renderOnSite(smallSite(), <Of part={ProgramWhen} />);
    const days = within(screen.getByRole("group", { name: "Weekdays" }));
    await user.click(days.getByRole("button", { name: /^Mo/ }));
    expect(first(now()).days).toEqual({ type: "weekdays", days: ["mon", "tue"] });
    await user.click(days.getByRole("button", { name: /^Tu/ }));
    expect(first(now()).days).toEqual({ type: "weekdays", days: ["mon"] });
  });

  it.each([
    ["odd", { type: "odd" }],
    ["even", { type: "even" }],
    ["interval", { type: "interval", everyDays: 2, anchor: "2026-07-14" }],
    ["halfMonth", { type: "halfMonth", everyDays: Array.from({ length: 24 }, () => 3), anchor: "2026-07-14" }],
  ] as const)("turned to %s it begins counted from the night that is looked at", async (type, days) => {
    const { user, now } = renderOnSite(smallSite(), <Of part={ProgramWhen} />);
    await user.selectOptions(screen.getByRole("combobox", { name: "Days" }), type);
    expect(first(now()).days).toEqual(days);
  });

  it("every half of a month has its field", async () => {
    const { user, now } = renderOnSite(
      withDays({ type: "halfMonth", everyDays: Array.from({ length: 24 }, () => 3), anchor: "2026-07-01" }),
      <Of part={ProgramWhen} />,
    );
    const half = screen.getByRole("textbox", { name: /^Jul, from the 16th/ });
    await user.clear(half);
    await user.type(half, "2{Enter}");
    const { days } = first(now());
    expect(days.type === "halfMonth" && days.everyDays.slice(12, 15)).toEqual([3, 2, 3]);
  });
});

describe("how a program runs", () => {
  it("holds with and without an end, and months of its own", async () => {
    const { user, now } = renderOnSite(smallSite(), <Of part={ProgramHow} />);
    const held = screen.getByRole("textbox", { name: "Held until" });
    await user.type(held, "2026-08-01{Enter}");
    expect(first(now()).holdUntil).toBe("2026-08-01");
    await user.click(screen.getByRole("checkbox", { name: "held, with no end" }));
    expect(first(now()).holdUntil).toBe("indefinite");
    expect(screen.getByRole("textbox", { name: "Held until" })).toBeDisabled();
    const july = screen.getByRole("textbox", { name: "Percent by month, Jul, %" });
    await user.clear(july);
    await user.type(july, "130{Enter}");
    expect(first(now()).monthlyPercent?.[6]).toBe(130);
    expect(first(now()).monthlyPercent?.[0]).toBe(100);
  });

  it("what is wrong with it is said above it", () => {
    renderOnSite(withDays({ type: "weekdays", days: [] }), <Of part={ProgramFindings} />);
    expect(screen.getByText(/has no days/)).toBeInTheDocument();
  });
});

describe("the run times", () => {
  it("are typed in place; an emptied one takes the station out, which can come in again with the rest", async () => {
    const { user, now } = renderOnSite(smallSite(), <Of part={RunMatrix} />);
    const minutes = screen.getByRole("textbox", { name: "Minutes of station 2" });
    await user.clear(minutes);
    await user.type(minutes, "7.5{Enter}");
    expect(first(now()).runs[1]).toMatchObject({ stationId: "s2", minutes: 7.5 });
    await user.clear(screen.getByRole("textbox", { name: "Minutes of station 2" }));
    await user.keyboard("{Enter}");
    expect(first(now()).runs.map((r) => r.stationId)).toEqual(["s1", "s3"]);
    await user.type(screen.getByRole("textbox", { name: /^Minutes for all not yet in/ }), "9{Enter}");
    await user.click(screen.getByRole("button", { name: "Add 1 station" }));
    expect(first(now()).runs.find((r) => r.stationId === "s2")?.minutes).toBe(9);
  });

  it("add up to station minutes and water", () => {
    renderOnSite(smallSite(), <Of part={RunMatrix} />);
    expect(screen.getByText("30 station minutes")).toBeInTheDocument();
    expect(screen.getAllByText(/2,500 L|2\.5 m³/).length).toBeGreaterThan(0);
  });
});
