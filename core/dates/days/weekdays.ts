import { z } from "zod";
import { weekdayOf } from "../wall-time.ts";
import { weekdaySchema } from "../weekday.ts";
import type { DayRule } from "./rule.ts";

const schema = z.strictObject({ type: z.literal("weekdays"), days: z.array(weekdaySchema).max(7) });

function words(days: z.infer<typeof schema>): string {
  if (days.days.length === 0) return "no day";
  return days.days.length === 7 ? "every day" : days.days.join(" ");
}

/** Chosen weekdays. */
export const weekdaysRule: DayRule<z.infer<typeof schema>> & { schema: typeof schema } = {
  schema,
  label: "chosen weekdays",
  ability: null,
  blank: () => ({ type: "weekdays", days: ["mon", "wed", "fri"] }),
  due: (days, date) => days.days.includes(weekdayOf(date)),
  perWeek: (days) => days.days.length,
  words,
  never: (days) => days.days.length === 0,
  countedFrom: (days) => days,
};
