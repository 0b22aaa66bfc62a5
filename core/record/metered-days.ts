import { addDays, type EpochS, instantOf, localDate } from "../dates/wall-time.ts";

/** What a water meter stood at, m³. @property begins another meter, or the same set back: nothing is known of what flowed before */
export type MeterStand = { at: EpochS; m3: number; begins: boolean };
/** A day's part of what a meter counted, by the site's calendar. @property seconds of the day between readings */
export type MeteredDay = { day: string; litres: number; seconds: number };

const LITRES = 1000;

/**
 * What a meter counted by days, where nothing else sees what flows through it (handbook#14-season): between two readings evenly, since nobody knows when it flowed. The days add up
 * to what the meter counted.
 *
 * @param stands oldest first
 */
export function meteredDays(timeZone: string, stands: readonly MeterStand[]): MeteredDay[] {
  const days = new Map<string, MeteredDay>();
  for (const [i, { at: to, m3, begins }] of stands.entries()) {
    const before = stands[i - 1];
    if (!before || begins || to <= before.at) continue;
    const perS = (LITRES * (m3 - before.m3)) / (to - before.at);
    for (let day = localDate(timeZone, before.at), from = before.at; from < to; day = addDays(day, 1)) {
      const ends = Math.min(to, instantOf(timeZone, addDays(day, 1), "00:00"));
      const known = days.get(day) ?? { day, litres: 0, seconds: 0 };
      days.set(day, { day, litres: known.litres + perS * (ends - from), seconds: known.seconds + ends - from });
      from = ends;
    }
  }
  return [...days.values()];
}
