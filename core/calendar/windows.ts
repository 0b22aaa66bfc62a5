import type { WaterWindow } from "../site-file/schema.ts";
import { addDays, type EpochS, instantOf, weekdayOf } from "../dates/wall-time.ts";

/** A half-open interval of instants: open at `from`, closed at `to`. Lists of them are sorted and never touch. */
export type Interval = { from: EpochS; to: EpochS };

/**
 * Weekly windows → intervals that begin on local dates `firstDate` … `firstDate + days − 1`. A window belongs to the day on which it
 * begins; `to` at or before `from` is on the next day, so `from` = `to` is 24 h.
 */
export function windowIntervals(timeZone: string, windows: WaterWindow[], firstDate: string, days: number): Interval[] {
  const found: Interval[] = [];
  for (let i = 0; i < days; i++) {
    const date = addDays(firstDate, i);
    for (const w of windows) {
      if (w.days && !w.days.includes(weekdayOf(date))) continue;
      const from = instantOf(timeZone, date, w.from);
      const to = instantOf(timeZone, w.to <= w.from ? addDays(date, 1) : date, w.to);
      if (to > from) found.push({ from, to });
    }
  }
  return union(found);
}

/** When a program may water: its windows (absent: always) less its closed hours. */
export function openIntervals(
  timeZone: string,
  rules: { windows?: WaterWindow[] | undefined; closedHours?: WaterWindow[] | undefined },
  firstDate: string,
  days: number,
): Interval[] {
  const always: Interval[] = [{ from: Number.NEGATIVE_INFINITY, to: Number.POSITIVE_INFINITY }];
  const open = rules.windows ? windowIntervals(timeZone, rules.windows, firstDate, days) : always;
  return rules.closedHours ? subtract(open, windowIntervals(timeZone, rules.closedHours, firstDate, days)) : open;
}

export function isInside(intervals: Interval[], at: EpochS): boolean {
  return intervals.some((i) => i.from <= at && at < i.to);
}

/** The next instant after `at` at which the answer of {@link isInside} can change; null when it never does again. */
export function nextChange(intervals: Interval[], at: EpochS): EpochS | null {
  let next = Number.POSITIVE_INFINITY;
  for (const { from, to } of intervals) {
    if (from > at && from < next) next = from;
    if (to > at && to < next) next = to;
  }
  return Number.isFinite(next) ? next : null;
}

export function union(intervals: Interval[]): Interval[] {
  const sorted = [...intervals].sort((a, b) => a.from - b.from);
  const merged: Interval[] = [];
  for (const next of sorted) {
    const last = merged[merged.length - 1];
    if (last && next.from <= last.to) last.to = Math.max(last.to, next.to);
    else merged.push({ ...next });
  }
  return merged;
}

function subtract(from: Interval[], cuts: Interval[]): Interval[] {
  let left = from;
  for (const cut of cuts)
    left = left.flatMap((i) => {
      if (cut.to <= i.from || cut.from >= i.to) return [i];
      const parts: Interval[] = [];
      if (cut.from > i.from) parts.push({ from: i.from, to: cut.from });
      if (cut.to < i.to) parts.push({ from: cut.to, to: i.to });
      return parts;
    });
  return left;
}
