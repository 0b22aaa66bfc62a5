import { addDays, instantOf, localDate } from "./wall-time.ts";

/**
 * The next time that these hours come on a site's clock, as instants.
 *
 * @param now epoch ms
 */
export function hoursOn(
  timeZone: string,
  { from, to }: { from: string; to?: string | undefined },
  now: number,
): { from: string; to?: string } {
  const today = localDate(timeZone, Math.floor(now / 1000));
  const begins = (date: string): number => 1000 * instantOf(timeZone, date, from);
  const date = begins(today) > now ? today : addDays(today, 1);
  const iso = (at: number): string => new Date(at).toISOString();
  if (to === undefined) return { from: iso(begins(date)) };
  return { from: iso(begins(date)), to: iso(1000 * instantOf(timeZone, to <= from ? addDays(date, 1) : date, to)) };
}
