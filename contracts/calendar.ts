import { z } from "zod";
import { dateSchema } from "../core/dates/date-schema.ts";
import { daysBetween } from "../core/dates/wall-time.ts";
import type { CalendarEntry, CalendarKind } from "../core/visits/calendar.ts";

const MOST_DAYS = 400;
export const calendarQuery = z
  .object({ from: dateSchema, to: dateSchema })
  .refine(({ from, to }) => from <= to && daysBetween(from, to) <= MOST_DAYS, `Ask for ${MOST_DAYS} days at most.`);
export type CalendarQuery = z.infer<typeof calendarQuery>;
/** @property madeAt since when whoever asks has an address from which other calendars read theirs; null: none */
export type Calendar = { entries: CalendarEntry[]; madeAt: string | null };
/** Said once, when it is made. */
export type CalendarAddress = { path: string };

/** Where at its site each kind is looked at. */
export const CALENDAR_PLACES: Record<CalendarKind, string> = {
  visit: "log?view=visits",
  todo: "log?view=todo",
  due: "log?view=todo",
  program: "programs",
  off: "programs",
  night: "night",
};
