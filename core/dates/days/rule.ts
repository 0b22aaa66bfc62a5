import type { z } from "zod";

/** What a kind of controller must be able to do for a rule (a key of its profile); null: every one can. */
export type DayAbility = "oddEven" | "interval" | "halfMonth" | null;

/** All that differs from one rule of days to another (handbook#6-programs, handbook#15-days). A new rule is one of these, in a file of its own. */
export type DayRule<D extends { type: string }> = {
  schema: z.ZodType<D>;
  /** In a list of choices. */
  label: string;
  ability: DayAbility;
  /** As someone who has just chosen it would begin, on a local date. */
  blank: (date: string) => D;
  due: (days: D, date: string) => boolean;
  /** Days a week on the average of a year. */
  perWeek: (days: D) => number;
  /** In words; `write`: how a date is written. */
  words: (days: D, write?: (date: string) => string) => string;
  /** It can never be due. */
  never: (days: D) => boolean;
  /** The same rule as if it had been counted from `date`; for figures that must not turn on when somebody began. */
  countedFrom: (days: D, date: string) => D;
};

/** A date as the file has it. */
export const asIs = (date: string): string => date;
