import { screen, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { WaterUsed } from "@/contracts/water";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { WaterView } from "./water-view";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
// A canvas is drawn by nobody here; the table says the same.
vi.mock("@/components/charts/water-chart", () => ({ WaterChart: ({ label }: { label: string }) => <p>{label}</p> }));

const BY_MONTH: WaterUsed = {
  from: "2025-11-01",
  to: "2026-11-29",
  rows: [
    { at: "2026-09", key: "scheduled", estimated: false, litres: 12_000 },
    { at: "2026-11", key: "scheduled", estimated: false, litres: 20_000 },
    { at: "2026-11", key: "broken", estimated: false, litres: 1500 },
    { at: "2026-11", key: "scheduled", estimated: true, litres: 700 },
  ],
  sources: [{ at: "2026-11", sourceId: "src", litres: 22_200, lostL: 1500 }],
  sensors: [
    { at: "2026-09", sensorId: "fs", litres: 12_000, seconds: 86_400, gapS: 0 },
    { at: "2026-11", sensorId: "fs", litres: 21_500, seconds: 80_000, gapS: 5400 },
  ],
};
const BY_DAY: WaterUsed = {
  from: "2026-11-01",
  to: "2026-11-30",
  rows: [
    { at: "2026-11-02", key: "s1", estimated: false, litres: 300 },
    { at: "2026-11-02", key: "gone", estimated: false, litres: 200 },
    { at: "2026-11-02", key: "", estimated: false, litres: 100 },
  ],
  sources: [],
  sensors: [{ at: "2026-11-02", sensorId: "fs", litres: 600, seconds: 86_400, gapS: 0 }],
};

const asked: string[] = [];
function server(answerOf: (search: URLSearchParams) => WaterUsed): void {
  vi.stubGlobal("fetch", async (path: string) => {
    asked.push(path);
    const body = JSON.stringify(answerOf(new URL(path, "http://here").searchParams));
    return new Response(body, { status: 200, headers: { "content-type": "application/json" } });
  });
}
const lines = async (): Promise<string[][]> => {
  const table = await screen.findByRole("table", { name: "Water used" });
  return within(table)
    .getAllByRole("row")
    .map((row) => [...row.children].map((cell) => cell.textContent ?? ""));
};
beforeEach(() => {
  asked.length = 0;
  window.history.replaceState(null, "", "/sites/site/log?view=water");
});
afterEach(() => vi.unstubAllGlobals());

describe("water used", () => {
  it("is told by month with what it was for, what was not read, the plan and the budget", async () => {
    server(() => BY_MONTH);
    const site = smallSite((s) => {
      const [source] = s.sources;
      if (source) source.monthlyBudgetM3 = Array.from({ length: 12 }, () => 15);
    });
    renderOnSite(site, <WaterView />);
    const [head, ...months] = await lines();
    expect(head).toEqual([
      "m³",
      "programs",
      "broken",
      "Read in all",
      "Not read, as planned",
      "Nothing known, h",
      "Programs as they stand",
      "Budget",
    ]);
    expect(months.map((m) => m.slice(0, 6))).toEqual([
      ["Sep 2026", "12.0", "–", "12.0", "–", "–"],
      ["Oct 2026", "–", "–", "–", "–", "all"],
      ["Nov 2026", "20.0", "1.5", "21.5", "0.7", "1.5"],
    ]);
    expect(months.map((m) => m[7])).toEqual(["15.0", "15.0", "15.0"]);
    expect(screen.getByText("Water used, 3 months; the table below says the same")).toBeInTheDocument();
  });

  it("costs what its sources' prices say, with what was lost and what a percent less would save", async () => {
    server(() => BY_MONTH);
    const site = smallSite((s) => {
      s.site.currency = "EUR";
      Object.assign(s.sources[0] as object, { price: { perM3: 2 } });
    });
    renderOnSite(site, <WaterView />);
    const [head, ...months] = await lines();
    expect(head?.slice(-2)).toEqual(["Costs, EUR", "of which leaks and breaks"]);
    expect(months.map((m) => m.slice(-2))).toEqual([
      ["–", "–"],
      ["–", "–"],
      ["44.40", "3.00"],
    ]);
    expect(screen.getByText(/A percent less in Nov 2026 would have saved 0\.44 EUR/)).toBeInTheDocument();
  });

  it("of a month is told by day, and by station with those that are gone and water that is nobody's", async () => {
    server((search) => (search.get("step") === "day" ? BY_DAY : BY_MONTH));
    const { user } = renderOnSite(smallSite(), <WaterView />);
    await user.click(await screen.findByRole("button", { name: "Nov 2026" }));
    await user.selectOptions(screen.getByLabelText("Told by"), "Station");
    expect(await screen.findByRole("columnheader", { name: "1 S1" })).toBeInTheDocument();
    const [head, day] = await lines();
    expect(head?.slice(1, 4)).toEqual(["1 S1", "no longer there", "not known"]);
    expect(day?.slice(0, 5)).toEqual(["2 Nov", "0.300", "0.200", "0.100", "0.600"]);
    expect(asked.at(-1)).toBe("/api/sites/site/water?by=station&step=day&from=2026-11-01&to=2026-11-30");
    await user.click(screen.getByRole("button", { name: "All months" }));
    expect(await screen.findByRole("heading", { name: "By month, the last year" })).toBeInTheDocument();
  });

  it("of a site that nothing was read of says where it would come from", async () => {
    server(() => ({ ...BY_MONTH, rows: [], sensors: [] }));
    renderOnSite(smallSite(), <WaterView />);
    expect(await screen.findByText(/^Nothing was read here yet\./)).toBeInTheDocument();
  });
});
