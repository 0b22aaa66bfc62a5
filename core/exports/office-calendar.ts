import ical, { ICalCalendarMethod } from "ical-generator";
import { addDays } from "../dates/wall-time.ts";
import type { CalendarEntry } from "../visits/calendar.ts";

/** An id that fits any calendar program, and stays another's where keys differ. */
const uidOf = (key: string): string => `${encodeURIComponent(key)}@presa`;

/**
 * What stands in the calendar of all sites as iCalendar (RFC 5545), a whole day each.
 *
 * @param now ISO instant, for the stamp that the format wants
 * @param urlOf where an entry is looked at; null where nobody has said under which address Presa is reached
 */
export function officeCalendar(
  entries: readonly CalendarEntry[],
  now: string,
  urlOf: (entry: CalendarEntry) => string | null,
): string {
  const calendar = ical({
    name: "Presa",
    method: ICalCalendarMethod.PUBLISH,
    prodId: { company: "presa", product: "office", language: "EN" },
  });
  for (const e of entries) {
    const url = urlOf(e);
    calendar.createEvent({
      id: uidOf(e.key),
      stamp: new Date(now),
      start: new Date(`${e.on}T00:00:00Z`),
      end: new Date(`${addDays(e.on, 1)}T00:00:00Z`),
      allDay: true,
      summary: `${e.site}: ${e.words}`,
      ...(url ? { url } : {}),
    });
  }
  return calendar.toString();
}
