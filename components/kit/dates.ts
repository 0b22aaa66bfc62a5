import { format, isValid, type Locale, parse } from "date-fns";
import { enUS } from "date-fns/locale/en-US";
import { es } from "date-fns/locale/es";
import type { Language } from "@/contracts/people";
import type { UnitSystem } from "@/core/units/units";

/** Dates are local calendar dates, `YYYY-MM-DD`; here they meet the calendar part, which works with `Date` at local noon. */
export const asDate = (iso: string): Date => parse(`${iso} 12`, "yyyy-MM-dd H", new Date(2000, 0, 1));
export const asIso = (date: Date): string => format(date, "yyyy-MM-dd");

/** How each language names months and days. */
export const LOCALES: Record<Language, Locale> = { en: enUS, es };

const SHOWN: Record<UnitSystem, string> = { metric: "d MMM yyyy", us: "MMM d, yyyy" };
/** What is understood when typed, whichever the site writes; a bare day and month come in the site's own order. */
const READ: Record<UnitSystem, string[]> = {
  metric: ["yyyy-MM-dd", "d MMM yyyy", "d MMMM yyyy", "MMM d, yyyy", "d.M.yyyy", "d/M/yyyy"],
  us: ["yyyy-MM-dd", "MMM d, yyyy", "MMMM d, yyyy", "d MMM yyyy", "M/d/yyyy"],
};

/** `26 Nov 2026`; on a US site `Nov 26, 2026`. What is no date is shown as it stands. */
export function writeDate(iso: string, system: UnitSystem, language: Language = "en"): string {
  const date = asDate(iso);
  return isValid(date) ? format(date, SHOWN[system], { locale: LOCALES[language] }) : iso;
}

const SHORT: Record<UnitSystem, string> = { metric: "d MMM", us: "MMM d" };
/** Without its year, where that goes without saying: `26 Nov`, `Nov 26`. */
export const writeShort = (iso: string, system: UnitSystem, language: Language = "en"): string =>
  format(asDate(iso), SHORT[system], { locale: LOCALES[language] });

/** A month of a year, given as `YYYY-MM`: `Nov 2026`. */
export const writeMonth = (month: string, language: Language = "en"): string =>
  format(asDate(`${month}-01`), "MMM yyyy", { locale: LOCALES[language] });

/** The same with its weekday: `Thu 26 Nov 2026`. */
export function writeDay(iso: string, system: UnitSystem, language: Language = "en"): string {
  const date = asDate(iso);
  return isValid(date) ? format(date, `EEE ${SHOWN[system]}`, { locale: LOCALES[language] }) : iso;
}

/** An instant on the clock of whoever looks, where no site has one: `26 Nov 2026 05:12`. */
export const writeHere = (instant: string, language: Language = "en"): string =>
  format(new Date(instant), "d MMM yyyy HH:mm", { locale: LOCALES[language] });

const WEEKDAY = /^(mon|tue|wed|thu|fri|sat|sun|lun|mar|mi[ée]|jue|vie|s[áa]b|dom)[a-zé]*\.?,?\s+/i;

/** A typed date, in any language that dates are written in; null when it is none. A weekday before it is passed over. */
export function readDate(text: string, system: UnitSystem): string | null {
  const typed = text.trim();
  // A word that may be a weekday may be a month as well.
  for (const bare of [typed, typed.replace(WEEKDAY, "")])
    for (const locale of Object.values(LOCALES))
      for (const pattern of READ[system]) {
        const date = parse(bare, pattern, new Date(2000, 0, 1), { locale });
        if (isValid(date) && date.getFullYear() >= 1900 && date.getFullYear() < 2200) return asIso(date);
      }
  return null;
}

/** A typed time of day as `HH:MM`: 21:30, 2130, 9.30 pm, 9pm. Null when it is none. */
export function readTime(text: string): string | null {
  const match = /^(\d{1,2})(?:[:.h ]?(\d{2}))?\s*(a\.?m\.?|p\.?m\.?)?$/i.exec(text.trim());
  if (!match) return null;
  const half = match[3]?.[0]?.toLowerCase();
  const typed = Number(match[1]);
  if (half && (typed < 1 || typed > 12)) return null;
  const hour = half ? (typed % 12) + (half === "p" ? 12 : 0) : typed;
  const minute = Number(match[2] ?? 0);
  if (hour > 23 || minute > 59) return null;
  return `${String(hour).padStart(2, "0")}:${String(minute).padStart(2, "0")}`;
}
