import { nth } from "../checked.ts";
import { MONTHS } from "./months.ts";

/** A date as people write it: `26 Nov 2026`, or `Nov 26, 2026` where gallons are counted. @param date YYYY-MM-DD */
export function writtenDate(date: string, units: "us" | "metric"): string {
  const [year, month, day] = [date.slice(0, 4), nth(MONTHS, Number(date.slice(5, 7)) - 1), Number(date.slice(8, 10))];
  return units === "us" ? `${month} ${day}, ${year}` : `${day} ${month} ${year}`;
}

/** `Nov 2026`, of `2026-11`. */
export const writtenMonth = (month: string): string =>
  `${nth(MONTHS, Number(month.slice(5, 7)) - 1)} ${month.slice(0, 4)}`;
