import { z } from "zod";
import { evenRule, oddRule } from "./days/dates.ts";
import { halfMonthRule } from "./days/half-month.ts";
import { intervalRule } from "./days/interval.ts";
import type { DayRule } from "./days/rule.ts";
import { weekdaysRule } from "./days/weekdays.ts";

/** The days of a program, as the site file holds them. */
export const daysSchema = z.discriminatedUnion("type", [
  weekdaysRule.schema,
  oddRule.schema,
  evenRule.schema,
  intervalRule.schema,
  halfMonthRule.schema,
]);
export type Days = z.infer<typeof daysSchema>;
export type DayType = Days["type"];
export type DaysOf<T extends DayType> = Extract<Days, { type: T }>;

/** Every rule of days, by kind: the one place that says what they do (docs/decisions/0011-records-by-kind.md). */
export const DAY_RULES: { [T in DayType]: DayRule<DaysOf<T>> } = {
  weekdays: weekdaysRule,
  odd: oddRule,
  even: evenRule,
  interval: intervalRule,
  halfMonth: halfMonthRule,
};
export const DAY_TYPES = Object.keys(DAY_RULES) as DayType[];

/** The rule of some days, which answers for them whatever their kind. */
export function ruleOf<D extends Days>(days: D): DayRule<D> {
  return DAY_RULES[days.type] as unknown as DayRule<D>;
}

export const daysWords = (days: Days, write?: (date: string) => string): string => ruleOf(days).words(days, write);
