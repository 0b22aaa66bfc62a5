import { nth } from "../checked.ts";
import { startsOn } from "../site-file/starts.ts";
import { ruleOf } from "../dates/day-rules.ts";
import { isDue } from "../calendar/due.ts";
import { adjustedSeconds } from "../calendar/run-time.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";

/** Days of a plain year, so that a month's figure does not turn on the year it is asked in. */
const daysOf = (month: number): string[] =>
  Array.from(
    { length: new Date(Date.UTC(2025, month + 1, 0)).getUTCDate() },
    (_, d) => `2025-${String(month + 1).padStart(2, "0")}-${String(d + 1).padStart(2, "0")}`,
  );

/**
 * Water that programs take in a month as they stand, m³, by their expected flows. Starts by inputs and the weather's daily percent are not in it: nobody knows them before.
 *
 * @param month 0 for January
 */
export function monthWaterM3(site: SiteFile, month: number, programs: readonly Program[] = site.programs): number {
  const days = daysOf(month);
  const flow = new Map(site.stations.map((s) => [s.id, expectedFlow(s)?.lpm ?? 0]));
  const plain = { ...site, site: { ...site.site, weatherPercents: undefined } };
  return programs
    .filter((p) => p.enabled !== false)
    .reduce((sum, p) => {
      // A step that ends counts in its own year and on its own days; what goes on counts as if it always had.
      const ends = p.until !== undefined;
      const usual = ends
        ? { ...p, holdUntil: undefined }
        : {
            ...p,
            from: undefined,
            holdUntil: undefined,
            days: ruleOf(p.days).countedFrom(p.days, "2025-01-01"),
          };
      const due =
        days.filter((d) => isDue(usual, ends ? `${p.until?.slice(0, 4)}${d.slice(4)}` : d)).length * startsOn(p).length;
      const litres =
        due === 0
          ? 0
          : p.runs.reduce(
              (l, r) => l + ((flow.get(r.stationId) ?? 0) * adjustedSeconds(plain, p, r.minutes, nth(days, 0))) / 60,
              0,
            );
      return sum + (due * litres) / 1000;
    }, 0);
}

/** What the budgets of all sources in use give in a month, m³; null where one of them has none. */
export function monthBudgetM3(site: SiteFile, month: number): number | null {
  const used = site.sources.filter((s) => s.enabled !== false);
  if (used.length === 0 || used.some((s) => !s.monthlyBudgetM3)) return null;
  return used.reduce((sum, s) => sum + (s.monthlyBudgetM3?.[month] as number), 0);
}

/**
 * What the programs take of a month's water budget, 1: all of it; null where there is none.
 *
 * @param month 0 for January
 */
export function shareOfBudget(site: SiteFile, month: number): number | null {
  const most = monthBudgetM3(site, month);
  return most === null || most <= 0 ? null : monthWaterM3(site, month) / most;
}
