import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomSite } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { outlook } from "./outlook.ts";

const everyDay = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    (s.programs[0] as SiteFile["programs"][number]).days = { type: "interval", everyDays: 2, anchor: "2026-07-01" };
    change(s);
  });

describe("the outlook", () => {
  it("is the plan of each date, with its water", () => {
    const site = everyDay();
    const { days } = outlook(site, "2026-07-01", 10);
    for (const d of days)
      expect([d.finish, d.makespanS]).toEqual([plan(site, d.date).finish, plan(site, d.date).makespanS]);
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
  it("goes on from what was really used of the month, and says at once when that was all", () => {
    const site = everyDay((s) => {
      Object.assign(s.sources[0] as object, { monthlyBudgetM3: Array(12).fill(20) });
    });
    const ends = (m3: number) =>
      outlook(site, "2026-07-06", 25, undefined, { month: "2026-07", before: "2026-07-10", m3: { src: m3 } })
        .budgets[0];
    // 2.5 m³ every second night from the 11th on.
    expect(ends(12)).toMatchObject({ usedM3: expect.closeTo(12 + 10 * 2.5, 6), runsOutOn: "2026-07-17" });
    expect(ends(0)?.runsOutOn).toBe("2026-07-27");
    expect(ends(21)?.runsOutOn).toBe("2026-07-10");
  });
  it("says where a clock change bites", () => {
    const site = everyDay((s) => {
      const p = s.programs[0] as SiteFile["programs"][number];
      p.days = { type: "weekdays", days: ["sun"] };
      p.starts = ["02:30"];
    });
    const { days } = outlook(site, "2026-03-22", 14);
    expect(days.filter((d) => d.warnings.includes("timeSkipped")).map((d) => d.date)).toEqual(["2026-03-29"]);
  });
  it("is what each night's plan says, night by night, with every litre from a source", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 1, max: 12 }, windows: true }), (site) => {
        for (const day of outlook(site, "2026-07-13", 3).days) {
          const night = plan(site, day.date);
          const litres = night.runs.reduce(
            (sum, r) => sum + ((r.flowLpm ?? 0) * (Date.parse(r.end) - Date.parse(r.start))) / 60_000,
            0,
          );
          expect([day.finish, day.makespanS, day.warnings]).toEqual([
            night.finish,
            night.makespanS,
            [...new Set(night.warnings.map((w) => w.code))],
          ]);
          expect(day.shortfallMin).toBeCloseTo(
            night.shortfalls.reduce((sum, s) => sum + s.minutes, 0),
            6,
          );
          expect(day.litres).toBeCloseTo(litres, 6);
          expect(day.sourceL.reduce((a, b) => a + b, 0)).toBeCloseTo(litres, 3);
        }
      }),
      { numRuns: 40, seed: 13 },
    );
  });
});
