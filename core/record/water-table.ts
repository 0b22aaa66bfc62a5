import { addDays, addMonths } from "../dates/wall-time.ts";
import { monthBudgetM3, monthWaterM3 } from "../season/month-water.ts";
import type { SiteFile } from "../site-file/schema.ts";

type Row = { at: string; key: string; estimated: boolean; litres: number };
type SensorRow = { at: string; litres: number; gapS: number };
/** Water of a day or month, m³. `by`: what was read, by key; `unreadH`: hours of which nothing is known, of the sensor with most of them; null: nobody read anything. */
export type WaterPeriod = {
  at: string;
  by: Record<string, number>;
  readM3: number;
  estimatedM3: number;
  unreadH: number | null;
  planM3: number | null;
  budgetM3: number | null;
  /** Of the same month a year before; null: not known. */
  yearBeforeM3: number | null;
};
/** `keys`: those that took most first. */
export type WaterTable = { keys: string[]; periods: WaterPeriod[] };

/**
 * Water used, a line a day or month from the first that something is known of to the last, beside what the programs as they stand take of a month and what its budget
 * gives (handbook#14-season).
 */
export function waterTable(site: SiteFile, used: { rows: readonly Row[]; sensors: readonly SensorRow[] }): WaterTable {
  const periods = new Map<string, WaterPeriod>();
  const totals = new Map<string, number>();
  const periodOf = (at: string): WaterPeriod => {
    const known = periods.get(at);
    if (known) return known;
    const month = at.length === 7 ? Number(at.slice(5)) - 1 : null;
    const made: WaterPeriod = {
      at,
      by: {},
      readM3: 0,
      estimatedM3: 0,
      unreadH: null,
      planM3: month === null ? null : monthWaterM3(site, month),
      budgetM3: month === null ? null : monthBudgetM3(site, month),
      yearBeforeM3: null,
    };
    periods.set(at, made);
    return made;
  };
  for (const { at, gapS } of used.sensors) {
    const period = periodOf(at);
    period.unreadH = Math.max(period.unreadH ?? 0, gapS / 3600);
  }
  for (const { at, key, estimated, litres } of used.rows) {
    const period = periodOf(at);
    const m3 = litres / 1000;
    if (estimated) {
      period.estimatedM3 += m3;
      continue;
    }
    period.readM3 += m3;
    period.by[key] = (period.by[key] ?? 0) + m3;
    totals.set(key, (totals.get(key) ?? 0) + m3);
  }
  const ats = [...periods.keys()].sort();
  const last = ats.at(-1) ?? "";
  for (let at = ats[0] ?? last; at < last; at = after(at)) periodOf(at);
  for (const period of periods.values())
    if (period.at.length === 7) {
      const before = periods.get(`${Number(period.at.slice(0, 4)) - 1}${period.at.slice(4)}`);
      if (before && before.unreadH !== null) period.yearBeforeM3 = before.readM3;
    }
  return {
    keys: [...totals].sort(([, a], [, b]) => b - a).map(([key]) => key),
    periods: [...periods.values()].sort((a, b) => a.at.localeCompare(b.at)),
  };
}

/** The next day, or the next month. */
function after(at: string): string {
  return at.length === 10 ? addDays(at, 1) : addMonths(`${at}-01`, 1).slice(0, 7);
}
