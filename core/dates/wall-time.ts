import { nth } from "../checked.ts";
import { Temporal } from "temporal-polyfill";
import type { Weekday } from "./weekday.ts";

/** Instants are whole seconds since 1970-01-01T00:00Z everywhere in core. */
export type EpochS = number;

const DAY_S = 86_400;

/** Monday first, as everywhere. */
export const WEEKDAYS: Weekday[] = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

/**
 * The instant of a wall time. One that a clock change skips is the first instant after the gap; one that occurs twice
 * is the first (site-file#exact-rules).
 */
export function instantOf(timeZone: string, date: string, hhmm: string): EpochS {
  const asUtc = Date.parse(`${date}T${hhmm}Z`) / 1000;
  if (Number.isInteger(asUtc) && new Date(asUtc * 1000).toISOString().startsWith(`${date}T${hhmm}`)) {
    const offset = offsetS(timeZone, asUtc - DAY_S);
    // The same a day before and after: no clock change is near.
    if (offset === offsetS(timeZone, asUtc + DAY_S)) return asUtc - offset;
  }
  return instantNearChange(timeZone, date, hhmm);
}

function instantNearChange(timeZone: string, date: string, hhmm: string): EpochS {
  const plain = Temporal.PlainDateTime.from(`${date}T${hhmm}`);
  const earlier = plain.toZonedDateTime(timeZone, { disambiguation: "earlier" });
  if (earlier.toPlainDateTime().equals(plain)) return Math.floor(earlier.epochMilliseconds / 1000);
  const jump = earlier.getTimeZoneTransition("next");
  return Math.floor((jump ?? plain.toZonedDateTime(timeZone)).epochMilliseconds / 1000);
}

/** Local ISO 8601 with offset, to the second below: `2026-07-14T22:00:00+02:00`. */
export function localIso(timeZone: string, at: EpochS): string {
  const whole = Math.floor(at);
  const offset = offsetS(timeZone, whole);
  const sign = offset < 0 ? "-" : "+";
  const minutes = Math.floor(Math.abs(offset) / 60);
  const two = (n: number): string => String(n).padStart(2, "0");
  return `${new Date((whole + offset) * 1000).toISOString().slice(0, 19)}${sign}${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
}

/** Offsets change on whole quarter-hours only, so each is looked up once. A pure memory: same question, same answer. */
const offsets = new Map<string, Map<number, number>>();

function offsetS(timeZone: string, at: EpochS): number {
  let known = offsets.get(timeZone);
  if (!known || known.size > 20_000) {
    known = new Map();
    offsets.set(timeZone, known);
  }
  const quarter = Math.floor(at / 900);
  let offset = known.get(quarter);
  if (offset === undefined) {
    offset = Math.round(zoned(timeZone, quarter * 900).offsetNanoseconds / 1e9);
    known.set(quarter, offset);
  }
  return offset;
}

/** Wall clock `HH:MM` of an instant. */
export function localClock(timeZone: string, at: EpochS): string {
  return localIso(timeZone, at).slice(11, 16);
}

/** Local date `YYYY-MM-DD` of an instant. */
export function localDate(timeZone: string, at: EpochS): string {
  return localIso(timeZone, at).slice(0, 10);
}

export function addDays(date: string, days: number): string {
  const [year, month, day] = [Number(date.slice(0, 4)), Number(date.slice(5, 7)), Number(date.slice(8))];
  return new Date(Date.UTC(year, month - 1, day + days)).toISOString().slice(0, 10);
}

/** The same day some months on; the last day of that month where it has no such day. */
export function addMonths(date: string, months: number): string {
  return Temporal.PlainDate.from(date).add({ months }).toString();
}

export function weekdayOf(date: string): Weekday {
  return nth(WEEKDAYS, Temporal.PlainDate.from(date).dayOfWeek - 1);
}

/** Whole days from `from` to `to`; negative when `to` is earlier. */
export function daysBetween(from: string, to: string): number {
  return Temporal.PlainDate.from(from).until(Temporal.PlainDate.from(to), { largestUnit: "days" }).days;
}

export function dayOfMonth(date: string): number {
  return Number(date.slice(8, 10));
}

/** 1 to 12. */
export function monthOf(date: string): number {
  return Number(date.slice(5, 7));
}

/** Is `HH:MM` skipped by a clock change on that date? */
export function isSkippedWallTime(timeZone: string, date: string, hhmm: string): boolean {
  return localIso(timeZone, instantOf(timeZone, date, hhmm)).slice(0, 16) !== `${date}T${hhmm}`;
}

function zoned(timeZone: string, at: EpochS): Temporal.ZonedDateTime {
  return Temporal.Instant.fromEpochMilliseconds(Math.floor(at) * 1000).toZonedDateTimeISO(timeZone);
}
