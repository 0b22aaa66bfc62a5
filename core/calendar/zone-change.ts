import { startsOn } from "../site-file/starts.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { addDays, instantOf } from "../dates/wall-time.ts";

/** A start of a program whose clock stays and whose moment moves. @property hours by which it is later; below 0 earlier */
export type MovedStart = { program: string; start: string; hours: number };

/**
 * What another time zone would move: programs keep their clocks, so that each start comes at another moment. Of the night of a date.
 *
 * @param date where the site is now, ISO
 */
export function movedByZone(site: SiteFile, zone: string, date: string): MovedStart[] {
  const from = site.site.timeZone;
  const hoursAt = (start: string): number => (instantOf(zone, date, start) - instantOf(from, date, start)) / 3600;
  return site.programs
    .filter((p) => p.enabled !== false)
    .flatMap((p) => startsOn(p).map((start) => ({ program: p.name, start, hours: hoursAt(start) })))
    .filter((m) => m.hours !== 0);
}

/** By how many hours a zone is ahead of another half a year on: what a date in summer alone does not show. */
export function hoursApart(from: string, to: string, date: string): { now: number; inHalfAYear: number } {
  const apart = (on: string): number => (instantOf(from, on, "12:00") - instantOf(to, on, "12:00")) / 3600;
  return { now: apart(date), inHalfAYear: apart(addDays(date, 182)) };
}
