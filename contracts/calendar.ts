import { z } from "zod";
import { dateSchema } from "../core/dates/date-schema.ts";
import { daysBetween } from "../core/dates/wall-time.ts";
import type { CalendarEntry } from "../core/visits/calendar.ts";

const MOST_DAYS = 400;
export const calendarQuery = z
  .object({ from: dateSchema, to: dateSchema })
  .refine(({ from, to }) => from <= to && daysBetween(from, to) <= MOST_DAYS, `Ask for ${MOST_DAYS} days at most.`);
export type CalendarQuery = z.infer<typeof calendarQuery>;
/** @property madeAt since when whoever asks has an address from which other calendars read theirs; null: none */
export type Calendar = { entries: CalendarEntry[]; madeAt: string | null };
/** Said once, when it is made. */
export type CalendarAddress = { path: string };
