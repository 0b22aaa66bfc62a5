import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { waterTable } from "./water-table.ts";

const row = (at: string, key: string, litres: number, estimated = false) => ({ at, key, litres, estimated });

describe("the table of water used", () => {
  it("has a line a month with what it is for, most first, beside plan and budget, and what was not read beside it", () => {
    const site = smallSite((s) => {
      const [source] = s.sources;
      if (source) source.monthlyBudgetM3 = Array.from({ length: 12 }, (_, m) => 10 * (m + 1));
    });
    const { keys, periods } = waterTable(site, {
      rows: [
        row("2026-08", "scheduled", 9000),
        row("2026-07", "broken", 500),
        row("2026-07", "scheduled", 12_000),
        row("2026-07", "scheduled", 2000, true),
      ],
      sensors: [
        { at: "2026-07", litres: 12_500, gapS: 7200 },
        { at: "2026-07", litres: 0, gapS: 3600 },
        { at: "2026-05", litres: 0, gapS: 0 },
      ],
    });
    expect(keys).toEqual(["scheduled", "broken"]);
    expect(periods.map((p) => [p.at, p.readM3, p.estimatedM3, p.unreadH, p.budgetM3])).toEqual([
      ["2026-05", 0, 0, 0, 50],
      // Of June nobody read anything.
      ["2026-06", 0, 0, null, 60],
      ["2026-07", 12.5, 2, 2, 70],
      ["2026-08", 9, 0, null, 80],
    ]);
    // 250 L/min for ten minutes each Tuesday of a plain year.
    expect(periods.map((p) => p.planM3)).toEqual([4 * 2.5, 4 * 2.5, 5 * 2.5, 4 * 2.5]);
  });
  it("has beside each month the same of a year before, where it was read", () => {
    const sensors = ["2025-07", "2026-07", "2026-08"].map((at) => ({ at, litres: 0, gapS: 0 }));
    const { periods } = waterTable(smallSite(), { rows: [row("2025-07", "scheduled", 7000)], sensors });
    expect(periods.flatMap((p) => (p.yearBeforeM3 === null ? [] : [[p.at, p.yearBeforeM3]]))).toEqual([["2026-07", 7]]);
  });
  it("of days has neither plan nor budget", () => {
    const rows = [row("2026-12-31", "scheduled", 10), row("2027-01-02", "scheduled", 10)];
    const { periods } = waterTable(smallSite(), { rows, sensors: [] });
    expect(periods.map((p) => [p.at, p.planM3, p.budgetM3, p.readM3])).toEqual([
      ["2026-12-31", null, null, 0.01],
      ["2027-01-01", null, null, 0],
      ["2027-01-02", null, null, 0.01],
    ]);
  });
});
