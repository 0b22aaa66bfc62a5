import { z } from "zod";

function isRealDate(value: string): boolean {
  const match = /^(\d{4})-(\d{2})-(\d{2})$/.exec(value);
  if (!match) return false;
  const [y, m, d] = [Number(match[1]), Number(match[2]), Number(match[3])];
  const utc = new Date(Date.UTC(y, m - 1, d));
  return y >= 1 && utc.getUTCMonth() === m - 1 && utc.getUTCDate() === d;
}

/** A date of the calendar. */
export const dateSchema = z.string().refine(isRealDate, "is not a date of the calendar, written YYYY-MM-DD");

/** A local minute, for simulated readings. */
export const localMinuteSchema = z
  .string()
  .refine(
    (v) => isRealDate(v.slice(0, 10)) && /^T([01]\d|2[0-3]):[0-5]\d$/.test(v.slice(10)),
    "is not a local minute, written 2026-07-14T21:30",
  );

/** A local time of day. */
export const clockSchema = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, "is not a time of day, written HH:MM");

function isTimeZone(value: string): boolean {
  try {
    new Intl.DateTimeFormat("en", { timeZone: value });
    return true;
  } catch {
    return false;
  }
}

/** A time zone by its name in the IANA list. */
export const timeZoneSchema = z
  .string()
  .max(80)
  .refine(isTimeZone, "is not a time zone of the IANA list, like Europe/Vienna");
