import { z } from "zod";
import { dayOfMonth, monthOf } from "../wall-time.ts";
import type { DayRule } from "./rule.ts";

const oddSchema = z.strictObject({ type: z.literal("odd"), skip31st: z.boolean().optional() });
const evenSchema = z.strictObject({ type: z.literal("even"), skip31st: z.boolean().optional() });

function isOddDue(days: z.infer<typeof oddSchema>, date: string): boolean {
  const day = dayOfMonth(date);
  const skipped = days.skip31st === true && (day === 31 || (day === 29 && monthOf(date) === 2));
  return day % 2 === 1 && !skipped;
}

/** Odd dates; without the 31st and 29 February, if wanted, so that no two days follow each other. */
export const oddRule: DayRule<z.infer<typeof oddSchema>> & { schema: typeof oddSchema } = {
  schema: oddSchema,
  label: "odd dates",
  ability: "oddEven",
  blank: () => ({ type: "odd" }),
  due: isOddDue,
  perWeek: () => 3.5,
  words: (days) => `odd dates${days.skip31st ? ", not the 31st and 29 February" : ""}`,
  never: () => false,
  countedFrom: (days) => days,
};

/** Even dates. */
export const evenRule: DayRule<z.infer<typeof evenSchema>> & { schema: typeof evenSchema } = {
  schema: evenSchema,
  label: "even dates",
  ability: "oddEven",
  blank: () => ({ type: "even" }),
  due: (_, date) => dayOfMonth(date) % 2 === 0,
  perWeek: () => 3.5,
  words: () => "even dates",
  never: () => false,
  countedFrom: (days) => days,
};
