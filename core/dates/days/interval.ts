import { z } from "zod";
import { dateSchema } from "../date-schema.ts";
import { daysBetween, weekdayOf } from "../wall-time.ts";
import { weekdaySchema } from "../weekday.ts";
import { asIs, type DayRule } from "./rule.ts";

const schema = z.strictObject({
  type: z.literal("interval"),
  everyDays: z.number().int().min(1).max(30),
  anchor: dateSchema,
  neverOn: z.array(weekdaySchema).max(7).optional(),
});
type IntervalDays = z.infer<typeof schema>;

function isDue(days: IntervalDays, date: string): boolean {
  const since = daysBetween(days.anchor, date);
  if (since < 0 || since % days.everyDays !== 0) return false;
  return !(days.neverOn ?? []).includes(weekdayOf(date));
}

function words({ everyDays, anchor, neverOn = [] }: IntervalDays, write = asIs): string {
  const never = neverOn.length > 0 ? `, never ${neverOn.join(" ")}` : "";
  return `every ${everyDays} day${everyDays === 1 ? "" : "s"} from ${write(anchor)}${never}`;
}

/** Every N days from an anchor; what falls on a weekday that is never watered is dropped, not moved. */
export const intervalRule: DayRule<IntervalDays> & { schema: typeof schema } = {
  schema,
  label: "every N days",
  ability: "interval",
  blank: (date) => ({ type: "interval", everyDays: 2, anchor: date }),
  due: isDue,
  perWeek: (days) => ((7 / days.everyDays) * (7 - new Set(days.neverOn ?? []).size)) / 7,
  words,
  never: (days) => new Set(days.neverOn ?? []).size === 7,
  countedFrom: (days, date) => ({ ...days, anchor: date }),
};
