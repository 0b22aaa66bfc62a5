import { nth } from "../checked.ts";
import { addDays, monthOf } from "../dates/wall-time.ts";
import { playedPlan, playNight } from "../dispatch/plan.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";

/** One date of a run of dates: what the controller will do that night, and what it takes from each source. */
export type DayOutlook = {
  date: string;
  starts: number;
  finish: string | null;
  makespanS: number;
  shortfallMin: number;
  litres: number;
  /** Litres from each source, in file order. */
  sourceL: number[];
  /** Codes of the night's warnings, each once. */
  warnings: string[];
};
export type BudgetOutlook = {
  sourceId: string;
  month: string;
  budgetM3: number;
  usedM3: number;
  /** The date on which the month's budget would be used up; null: it lasts. */
  runsOutOn: string | null;
};
/** What each source really gave in a month before a day of it, m³. */
export type ReadWater = { month: string; before: string; m3: Readonly<Record<string, number>> };
export type Outlook = { days: DayOutlook[]; budgets: BudgetOutlook[] };

/**
 * The nights of `days` local dates from `first`, each as `plan` would have it, and what they leave of each source's monthly budget. Sources are drawn on by
 * priority. A month that begins before `first` counts only from there, unless what was read of it is known.
 *
 * @param read takes the place of what was planned before that day
 */
export function outlook(
  site: SiteFile,
  first: string,
  days: number,
  onDay?: (done: number) => void,
  read: ReadWater | null = null,
): Outlook {
  const w = waterworks(site);
  const list = Array.from({ length: days }, (_, i) => {
    const day = dayOutlook(w, addDays(first, i));
    onDay?.(i + 1);
    return day;
  });
  return { days: list, budgets: budgetsOf(site, list, read) };
}

function dayOutlook(w: Waterworks, date: string): DayOutlook {
  const night = playNight(w, date);
  const { plan, moments } = playedPlan(w, night);
  const sourceL = w.site.sources.map(() => 0);
  moments.forEach((m, i) => {
    const until = moments[i + 1]?.at ?? m.at;
    m.source.forEach((lpm, s) => {
      sourceL[s] = nth(sourceL, s) + (lpm * (until - m.at)) / 60;
    });
  });
  return {
    date,
    starts: night.starts.length,
    finish: plan.finish,
    makespanS: plan.makespanS,
    shortfallMin: plan.shortfalls.reduce((sum, s) => sum + s.minutes, 0),
    litres: night.runs.reduce((sum, r) => sum + ((r.flowLpm ?? 0) * (r.end - r.start)) / 60, 0),
    sourceL,
    warnings: [...new Set(night.warnings.map((x) => x.code))],
  };
}

function budgetsOf(site: SiteFile, days: DayOutlook[], read: ReadWater | null): BudgetOutlook[] {
  const months = [...new Set(days.map((d) => d.date.slice(0, 7)))];
  return site.sources.flatMap((source, s) =>
    months.flatMap((month) => {
      const budgetM3 = source.monthlyBudgetM3?.[monthOf(`${month}-01`) - 1];
      if (budgetM3 === undefined) return [];
      const known = read?.month === month ? read : null;
      let usedM3 = known?.m3[source.id] ?? 0;
      let runsOutOn: string | null = known && usedM3 > budgetM3 + 1e-9 ? known.before : null;
      for (const d of days) {
        if (d.date.slice(0, 7) !== month || (known && d.date < known.before)) continue;
        usedM3 += nth(d.sourceL, s) / 1000;
        if (runsOutOn === null && usedM3 > budgetM3 + 1e-9) runsOutOn = d.date;
      }
      return [{ sourceId: source.id, month, budgetM3, usedM3, runsOutOn }];
    }),
  );
}
