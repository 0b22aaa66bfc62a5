import { fireEvent, render, screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { weekHours } from "@/core/calendar/week-grid";
import { flowMoments, planOf, playNight } from "@/core/dispatch/plan";
import { waterworks } from "@/core/network/waterworks";
import type { Program, SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { Braid } from "./braid/braid";
import { braidOf, runKey } from "./braid/braid-data";
import { ProgramKey } from "./braid/program-key";
import { WaterworksPicture } from "./drawing/drawing";
import { FlowSketch } from "./drawing/flow-sketch";
import { PipeChart } from "./drawing/pipe-chart";
import { NightSketch } from "./night-sketch";
import { RangeBar } from "./range-bar";
import { WeekGrid } from "./week-grid";

const DATE = "2026-07-14";
const program = (s: SiteFile): Program => s.programs[0] as Program;
function nightOf(site: SiteFile) {
  const w = waterworks(site);
  const played = playNight(w, DATE);
  const plan = planOf(w, played);
  const data = braidOf(site, plan.runs, flowMoments(w, played, [...played.runs]), DATE);
  if (!data) throw new Error("nothing runs");
  return { plan, data };
}
function drawBraid(site: SiteFile, more: Partial<React.ComponentProps<typeof Braid>> = {}) {
  const { plan, data } = nightOf(site);
  const [onSelect, onWaterline] = [vi.fn(), vi.fn()];
  const all = {
    site,
    data,
    units: "metric" as const,
    width: 900,
    pxPerMinute: 6,
    noEarlierThan: null,
    selected: null,
    waterline: data.from + 300,
    onSelect,
    onWaterline,
    ...more,
  };
  const view = render(<Braid {...all} />);
  return { ...view, ...all, plan, again: (changed: object) => view.rerender(<Braid {...all} {...changed} />) };
}
const runs = (): HTMLElement[] => screen.getAllByRole("button").filter((b) => b.hasAttribute("data-run"));

describe("the braid", () => {
  it("has a channel a main with its own runs, each told with flow and minutes, and one for the connection", () => {
    drawBraid(smallSite());
    const main = screen.getByRole("group", { name: /^Main/ });
    expect(
      within(main)
        .getAllByRole("button")
        .map((b) => b.getAttribute("aria-label")),
    ).toEqual(["1 S1, 100 L/min · 10 min", "3 S3, 50 L/min · 10 min", "2 S2, 100 L/min · 10 min"]);
    expect(screen.getByRole("group", { name: /^Poc/ })).toBeInTheDocument();
  });
  it("arrows go from run to run in the order of time, and stop at the ends", async () => {
    drawBraid(smallSite());
    const [first, second, third] = runs();
    first?.focus();
    fireEvent.keyDown(first as HTMLElement, { key: "ArrowDown" });
    expect(second).toHaveFocus();
    fireEvent.keyDown(second as HTMLElement, { key: "j" });
    fireEvent.keyDown(third as HTMLElement, { key: "ArrowDown" });
    expect(third).toHaveFocus();
    fireEvent.keyDown(third as HTMLElement, { key: "k" });
    expect(second).toHaveFocus();
  });
  it("a run is chosen by mouse, Enter and Space", () => {
    const { onSelect, plan } = drawBraid(smallSite());
    const [first] = runs();
    fireEvent.click(first as HTMLElement);
    fireEvent.keyDown(first as HTMLElement, { key: "Enter" });
    fireEvent.keyDown(first as HTMLElement, { key: " " });
    expect(onSelect).toHaveBeenCalledTimes(3);
    expect(onSelect).toHaveBeenLastCalledWith(plan.runs[0]);
  });
  it("says which run passes the ceiling, and by how much", () => {
    const site = smallSite((s) => {
      Object.assign(s.controllers[0] as object, { unlinked: true });
      s.controllers.push({ id: "c2", name: "Second", powered: "mains", unlinked: true });
      Object.assign(s.stations[1] as object, { controllerId: "c2" });
      program(s).runs = [{ stationId: "s1", minutes: 10 }];
      s.programs.push({ ...program(s), id: "q", controllerId: "c2", runs: [{ stationId: "s2", minutes: 10 }] });
    });
    const { container } = drawBraid(site);
    expect(runs().some((r) => r.getAttribute("aria-label")?.includes("past the ceiling"))).toBe(true);
    expect(container.querySelector('[fill="url(#hatch)"]')).not.toBeNull();
  });
  it("a soak joins two cycles: short ends, and whole for the station that is selected", () => {
    const site = smallSite((s) => {
      Object.assign(s.stations[0] as object, { cycle: { count: 2 }, soakMin: 20 });
    });
    const { container, again, plan } = drawBraid(site);
    const paths = (): string[] => [...container.querySelectorAll("path")].map((p) => p.getAttribute("d") ?? "");
    expect(paths().some((d) => /^M[\d.]+ [\d.]+v[\d.]+M/.test(d))).toBe(true);
    const first = plan.runs.find((r) => r.stationId === "s1");
    again({ selected: first ? runKey(first) : null });
    expect(paths().some((d) => /^M[\d.]+ [\d.]+C/.test(d))).toBe(true);
  });
  it("the waterline tells its clock and moves by a minute or by half an hour, never past the night", () => {
    const { onWaterline, data, again } = drawBraid(smallSite());
    const line = screen.getByRole("slider", { name: "Waterline" });
    expect(line).toHaveAttribute("aria-valuetext", "22:05");
    fireEvent.keyDown(line, { key: "ArrowDown" });
    expect(onWaterline).toHaveBeenLastCalledWith(data.from + 360);
    fireEvent.keyDown(line, { key: "ArrowUp", shiftKey: true });
    expect(onWaterline).toHaveBeenLastCalledWith(data.from);
    again({ waterline: data.to });
    fireEvent.keyDown(screen.getByRole("slider", { name: "Waterline" }), { key: "ArrowRight" });
    expect(onWaterline).toHaveBeenLastCalledWith(data.to);
  });
  it("alarms stand at their moment in words; the bound is marked with its clock", () => {
    const { data } = nightOf(smallSite());
    drawBraid(smallSite(), {
      stones: [{ at: data.from + 400, words: "high: station 2 S2", mainlineId: "main" }],
      noEarlierThan: data.to,
    });
    expect(screen.getByText("high: station 2 S2")).toBeInTheDocument();
    expect(screen.getByText("no earlier")).toBeInTheDocument();
    expect(screen.getAllByText("22:20").length).toBeGreaterThan(0);
  });
  it("tones are told only where there are several programs", () => {
    const site = smallSite();
    const { unmount } = renderOnSite(site, <ProgramKey runs={nightOf(site).plan.runs} />);
    expect(screen.queryByRole("list", { name: "Tones of the programs" })).toBeNull();
    unmount();
    const two = smallSite((s) => {
      s.programs.push({ ...program(s), id: "q", name: "Beds", starts: ["23:30"] });
    });
    renderOnSite(two, <ProgramKey runs={nightOf(two).plan.runs} />);
    expect(screen.getByRole("list", { name: "Tones of the programs" })).toHaveTextContent("PBeds");
  });
});

describe("the night in small", () => {
  const summary = {
    date: DATE,
    finish: null,
    makespanS: 1200,
    ratio: null,
    shortfallMin: 0,
    watched: null,
    findings: { errors: 0, warnings: 0, notes: 0 },
    binding: null,
    sketch: Array.from({ length: 110 }, (_, i) => (i < 60 ? 100 : 0)).join(" "),
    litres: 1000,
  };
  it("is a picture with a name, or a dash where nothing runs", () => {
    const { rerender, container } = render(<NightSketch summary={summary} name="Dell Pond" />);
    expect(screen.getByRole("img", { name: "Flow through the night of Dell Pond" })).toBeInTheDocument();
    rerender(<NightSketch summary={{ ...summary, sketch: "" }} name="Dell Pond" />);
    expect(container).toHaveTextContent("–");
  });
});

describe("a sensor's range", () => {
  const bar = (range: { minLpm: number | null; maxLpm: number | null }) =>
    render(
      <RangeBar
        range={range}
        stations={smallSite().stations}
        ceilingLpm={150}
        burstLpm={400}
        offScheduleLpm={20}
        units="metric"
      />,
    );
  it("is told in words, each station a tick, one that is not seen a triangle", () => {
    const { container } = bar({ minLpm: 60, maxLpm: 900 });
    expect(screen.getByRole("img")).toHaveAccessibleName("Range 60 to 900 L/min; 3 stations from 50 to 100");
    expect(container.querySelectorAll('path[stroke="var(--caution)"]')).toHaveLength(1);
    for (const mark of ["smallest 60", "off-schedule 20", "ceiling 150", "burst 400", "largest 900"])
      expect(screen.getByText(mark)).toBeInTheDocument();
  });
  it("unknown, says so", () => {
    bar({ minLpm: null, maxLpm: null });
    expect(screen.getByRole("img")).toHaveAccessibleName(/^Range unknown to unknown/);
  });
});

describe("the hours of a week", () => {
  const grid = (windows: Program["windows"], disabled = false) => {
    const onCommit = vi.fn();
    render(
      <WeekGrid
        windows={windows}
        closed={[{ from: "08:00", to: "10:00" }]}
        starts={["22:00"]}
        disabled={disabled}
        onCommit={onCommit}
      />,
    );
    return { onCommit, hour: (name: string) => screen.getByRole("button", { name: new RegExp(`^${name}`) }) };
  };
  it("an hour is closed and opened by Enter; arrows go over the edges of the week", () => {
    const { onCommit, hour } = grid(undefined);
    const first = hour("mon 0:00");
    expect(first).toHaveAttribute("aria-pressed", "true");
    expect(hour("mon 8:00")).toHaveAccessibleName("mon 8:00, closed hours");
    first.focus();
    fireEvent.keyDown(first, { key: "ArrowUp" });
    expect(hour("sun 0:00")).toHaveFocus();
    fireEvent.keyDown(hour("sun 0:00"), { key: "ArrowDown" });
    expect(first).toHaveFocus();
    fireEvent.keyDown(first, { key: "Enter" });
    const windows = onCommit.mock.calls[0]?.[0] as NonNullable<Program["windows"]>;
    expect(weekHours(windows)).toEqual([0, ...Array(167).fill(1)]);
  });
  it("all hours open is no window at all", () => {
    const { onCommit, hour } = grid([
      { days: ["tue", "wed", "thu", "fri", "sat", "sun"], from: "00:00", to: "00:00" },
      { days: ["mon"], from: "01:00", to: "00:00" },
    ]);
    fireEvent.keyDown(hour("mon 0:00"), { key: " " });
    expect(onCommit).toHaveBeenCalledWith(undefined);
  });
  it("a window within an hour is shown, not painted over; nor by who only looks", () => {
    grid([{ from: "22:30", to: "05:00" }]);
    expect(screen.getByText(/begins or ends within an hour/)).toBeInTheDocument();
    expect(screen.getAllByRole("button").every((b) => (b as HTMLButtonElement).disabled)).toBe(true);
  });
});

describe("the pipe chart", () => {
  it("takes the first size that keeps the velocity, and says what none keeps", async () => {
    const { user } = renderOnSite(smallSite(), <PipeChart />);
    expect(screen.getByText(/^Take/)).toHaveTextContent(/at 200 L\/min; it may carry/);
    const sizes = within(screen.getByRole("table", { name: "Sizes at this flow" }));
    expect(sizes.getAllByText(/too fast/).length).toBeGreaterThan(0);
    const flow = screen.getByLabelText(/^Flow/);
    await user.clear(flow);
    await user.type(flow, "90000{Tab}");
    expect(screen.getByText(/No size of this series keeps/)).toBeInTheDocument();
  });
  it("tells loss in every unit and the surge of the size that is picked", async () => {
    const { user } = renderOnSite(smallSite(), <PipeChart />);
    const sizes = within(screen.getByRole("table", { name: "Sizes at this flow" }));
    const last = sizes.getAllByRole("button").at(-1) as HTMLElement;
    await user.click(last);
    expect(screen.getAllByText(/m a 100 m/).length).toBeGreaterThan(0);
    expect(screen.getByText(/of surge/)).toBeInTheDocument();
  });
});

describe("the still drawing", () => {
  it("shows every element with what limits it", () => {
    render(<WaterworksPicture site={smallSite()} units="metric" />);
    const picture = screen.getByRole("img", { name: "Drawing of the waterworks" });
    for (const words of ["Source", "Poc", "Main", "150 L/min", "3 stations"]) expect(picture).toHaveTextContent(words);
  });
});

describe("the small copy that the waterline lights", () => {
  const twoMains = smallSite((s) => {
    s.mainlines.push({
      id: "far",
      name: "A main with a long name indeed",
      feedIds: ["main"],
      pipes: [],
      ceilingLpm: 80,
    });
  });
  const line = (name: RegExp): SVGLineElement =>
    [...document.querySelectorAll("title")]
      .find((t) => name.test(t.textContent ?? ""))
      ?.parentElement?.querySelector("line") as SVGLineElement;
  const thickness = (name: RegExp): number => Number(line(name).getAttribute("stroke-width"));
  it("draws a pipe as thick as it is full, a dry one as a line, with the flow under it", () => {
    const flows = new Map([
      ["poc", 75],
      ["main", 75],
    ]);
    const { rerender } = render(<FlowSketch site={twoMains} flows={flows} />);
    const picture = screen.getByRole("img", { name: "What flows where at that moment" });
    expect(picture).toHaveTextContent("75");
    expect(line(/^Main: 75 L\/min of 150 L\/min/)).toHaveAttribute("stroke", "var(--water)");
    expect(line(/^A main with a long name indeed: 0 L\/min/)).toHaveAttribute("stroke", "var(--faint)");
    const half = thickness(/^Main/);
    expect(half).toBeGreaterThan(thickness(/^A main/));
    rerender(<FlowSketch site={twoMains} flows={new Map([["main", 150]])} />);
    expect(thickness(/^Main/)).toBeGreaterThan(half);
  });
  it("shortens a name that has no room, and keeps it whole for whoever points at it", () => {
    render(<FlowSketch site={twoMains} flows={new Map()} />);
    expect(screen.getByText(/^A main wi.*…$/)).toBeInTheDocument();
    expect(line(/^A main with a long name indeed/)).toBeTruthy();
  });
});
