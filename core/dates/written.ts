import { nth } from "../checked.ts";
import { MONTHS } from "./months.ts";

const MESES = ["ene", "feb", "mar", "abr", "may", "jun", "jul", "ago", "sept", "oct", "nov", "dic"];

/** A date as people write it: `26 Nov 2026`, or `Nov 26, 2026` where gallons are counted; in Spanish `26 nov 2026`. @param date YYYY-MM-DD */
export function writtenDate(date: string, units: "us" | "metric", language: "en" | "es" = "en"): string {
  const names = language === "es" ? MESES : MONTHS;
  const [year, month, day] = [date.slice(0, 4), nth(names, Number(date.slice(5, 7)) - 1), Number(date.slice(8, 10))];
  if (language === "es") return `${day} ${month} ${year}`;
  return units === "us" ? `${month} ${day}, ${year}` : `${day} ${month} ${year}`;
}

/** `Nov 2026`, of `2026-11`. */
export const writtenMonth = (month: string): string =>
  `${nth(MONTHS, Number(month.slice(5, 7)) - 1)} ${month.slice(0, 4)}`;
