import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { outlook } from "./outlook.ts";

const everyDay = (change: (s: SiteFile) => void = () => {}): SiteFile => smallSite((s) => {
  (s.programs[0] as SiteFile["programs"][number]).days = { type: "interval", everyDays: 2, anchor: "2026-07-01" };
  change(s);
});

describe("the outlook", () => {
  it("is the plan of each date, with its water", () => {
    const site = everyDay();
    const { days } = outlook(site, "2026-07-01", 10);
    for (const d of days) expect([d.finish, d.makespanS]).toEqual([plan(site, d.date).finish, plan(site, d.date).makespanS]);
    expect(days.map((d) => d.starts)).toEqual([1, 0, 1, 0, 1, 0, 1, 0, 1, 0]);
    expect(days[0]?.litres).toBe(2500);
    expect(days[0]?.sourceL).toEqual([expect.closeTo(2500, 6)]);
  });
  it("sources are drawn on by priority, and a budget has a date on which it is used up", () => {
    const site = everyDay((s) => {
      Object.assign(s.sources[0] as object, { yieldLpm: 100, priority: 1, monthlyBudgetM3: Array(12).fill(7.2) });
      s.sources.push({ id: "tank", name: "Tank", kind: "tank", priority: 2, monthlyBudgetM3: Array(12).fill(50) });
      s.pocs[0]?.sourceIds.push("tank");
    });
    const { days, budgets } = outlook(site, "2026-07-01", 31);
    expect((days[0]?.sourceL[0] as number) + (days[0]?.sourceL[1] as number)).toBeCloseTo(2500, 6);
    expect(days[0]?.sourceL[0]).toBeCloseTo(2000, 3);
    expect(budgets).toEqual([
      { sourceId: "src", month: "2026-07", budgetM3: 7.2, usedM3: expect.closeTo(32, 3), runsOutOn: "2026-07-07" },
      { sourceId: "tank", month: "2026-07", budgetM3: 50, usedM3: expect.closeTo(8, 3), runsOutOn: null },
    ]);
  });
  it("says where a clock change bites", () => {
    const site = everyDay((s) => { const p = s.programs[0] as SiteFile["programs"][number]; p.days = { type: "weekdays", days: ["sun"] }; p.starts = ["02:30"]; });
    const { days } = outlook(site, "2026-03-22", 14);
    expect(days.filter((d) => d.warnings.includes("timeSkipped")).map((d) => d.date)).toEqual(["2026-03-29"]);
  });
});
