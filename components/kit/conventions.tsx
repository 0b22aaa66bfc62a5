"use client";
import { createContext, useContext, useMemo } from "react";
import { localDate, localIso } from "@/core/dates/wall-time";
import { fromShown, type Quantity, showNumber, toShown, unitLabel, type UnitSystem } from "@/core/units/units";
import type { Language } from "@/contracts/people";
import { readDate, writeDate, writeDay, writeHere, writeMonth, writeShort } from "./dates";

/** How figures and dates are written where one stands: the one formatter of the interface. */
export type Conventions = {
  system: UnitSystem;
  /** A figure with its unit, to three significant figures. */
  quantity: (value: number, quantity: Quantity) => string;
  /** The figure alone, for columns whose head carries the unit; decimals as the column needs. */
  figure: (value: number, quantity: Quantity, digits?: number) => string;
  unit: (quantity: Quantity) => string;
  fromShown: (value: number, quantity: Quantity) => number;
  /** `26 Nov 2026`, or `Nov 26, 2026` on a US site. */
  date: (iso: string) => string;
  /** The day on which an instant lies where the site is, as `date` writes it. */
  dateAt: (instant: string) => string;
  /** With the minute, on the site's clock: `26 Nov 2026 05:12`. */
  momentAt: (instant: string) => string;
  /** With its weekday: `Thu 26 Nov 2026`. */
  day: (iso: string) => string;
  /** Without its year: `26 Nov`. */
  short: (iso: string) => string;
  /** `Nov 2026`, of `2026-11`. */
  month: (month: string) => string;
  /** An instant on the clock of whoever looks: `26 Nov 2026 05:12`. */
  here: (instant: string) => string;
  readDate: (text: string) => string | null;
  /** `05:12`, and `05:12 next day` where the date is past `of`; a dash where there is none. */
  clock: (iso: string | null | undefined, of?: string) => string;
};

/** Three significant figures, but never fewer than the whole number: 0.62, 14.3, 1,240. */
export function significant(value: number): string {
  if (value === 0) return "0";
  const digits = Math.max(0, Math.min(4, 2 - Math.floor(Math.log10(Math.abs(value)))));
  return showNumber(value, digits);
}

/** @param timeZone of the site, for instants */
export function conventions(system: UnitSystem, timeZone = "UTC", language: Language = "en"): Conventions {
  return {
    system,
    quantity: (value, quantity) => `${significant(toShown(value, quantity, system))} ${unitLabel(quantity, system)}`,
    figure: (value, quantity, digits) =>
      digits === undefined
        ? significant(toShown(value, quantity, system))
        : showNumber(toShown(value, quantity, system), digits, digits),
    unit: (quantity) => unitLabel(quantity, system),
    fromShown: (value, quantity) => fromShown(value, quantity, system),
    date: (iso) => writeDate(iso, system, language),
    dateAt: (instant) => writeDate(localDate(timeZone, Math.floor(Date.parse(instant) / 1000)), system, language),
    momentAt: (instant) => {
      const local = localIso(timeZone, Math.floor(Date.parse(instant) / 1000));
      return `${writeDate(local.slice(0, 10), system, language)} ${local.slice(11, 16)}`;
    },
    day: (iso) => writeDay(iso, system, language),
    short: (iso) => writeShort(iso, system, language),
    month: (month) => writeMonth(month, language),
    here: (instant) => writeHere(instant, language),
    readDate: (text) => readDate(text, system),
    clock: (iso, of) => {
      if (!iso) return "–";
      const clock = iso.slice(11, 16);
      return of !== undefined && iso.slice(0, 10) > of ? `${clock} next day` : clock;
    },
  };
}

const Context = createContext<Conventions | null>(null);
const LanguageContext = createContext<Language>("en");
/** The language that whoever looks reads dates in. */
export const useLanguage = (): Language => useContext(LanguageContext);
export function LanguageProvider({ language, children }: { language: Language; children: React.ReactNode }) {
  return <LanguageContext value={language}>{children}</LanguageContext>;
}

type Props = { system: UnitSystem; timeZone?: string; children: React.ReactNode };

export function ConventionsProvider({ system, timeZone, children }: Props) {
  const language = useLanguage();
  const value = useMemo(() => conventions(system, timeZone, language), [system, timeZone, language]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

/** Those of the site that is open; of the metric system where none is. */
export function useConventions(): Conventions {
  const language = useLanguage();
  const ofSite = useContext(Context);
  return useMemo(() => ofSite ?? conventions("metric", "UTC", language), [ofSite, language]);
}
