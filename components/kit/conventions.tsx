"use client";
import { createContext, useContext, useMemo } from "react";
import { fromShown, type Quantity, showNumber, toShown, unitLabel, type UnitSystem } from "@/core/units/units";
import { readDate, writeDate, writeDay, writeMonth, writeShort } from "./dates";

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
  /** With its weekday: `Thu 26 Nov 2026`. */
  day: (iso: string) => string;
  /** Without its year: `26 Nov`. */
  short: (iso: string) => string;
  /** `Nov 2026`, of `2026-11`. */
  month: (month: string) => string;
  readDate: (text: string) => string | null;
  /** `05:12`, and `05:12 next day` where the date is past `of`. */
  clock: (iso: string, of?: string) => string;
};

/** Three significant figures, but never fewer than the whole number: 0.62, 14.3, 1,240. */
export function significant(value: number): string {
  if (value === 0) return "0";
  const digits = Math.max(0, Math.min(4, 2 - Math.floor(Math.log10(Math.abs(value)))));
  return showNumber(value, digits);
}

export function conventions(system: UnitSystem): Conventions {
  return {
    system,
    quantity: (value, quantity) => `${significant(toShown(value, quantity, system))} ${unitLabel(quantity, system)}`,
    figure: (value, quantity, digits) =>
      digits === undefined
        ? significant(toShown(value, quantity, system))
        : showNumber(toShown(value, quantity, system), digits, digits),
    unit: (quantity) => unitLabel(quantity, system),
    fromShown: (value, quantity) => fromShown(value, quantity, system),
    date: (iso) => writeDate(iso, system),
    day: (iso) => writeDay(iso, system),
    short: (iso) => writeShort(iso, system),
    month: writeMonth,
    readDate: (text) => readDate(text, system),
    clock: (iso, of) => {
      const clock = iso.slice(11, 16);
      return of !== undefined && iso.slice(0, 10) > of ? `${clock} next day` : clock;
    },
  };
}

const Context = createContext<Conventions>(conventions("metric"));

export function ConventionsProvider({ system, children }: { system: UnitSystem; children: React.ReactNode }) {
  const value = useMemo(() => conventions(system), [system]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const useConventions = (): Conventions => useContext(Context);
