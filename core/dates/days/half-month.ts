import { z } from "zod";
import { MONTHS } from "../months.ts";
import { dateSchema } from "../date-schema.ts";
import { asIs, type DayRule } from "./rule.ts";

const schema = z.strictObject({
  type: z.literal("halfMonth"),
  everyDays: z.array(z.number().int().min(0).max(60)).length(24),
  anchor: dateSchema,
});
type HalfMonthDays = z.infer<typeof schema>;

const DAY_MS = 86_400_000;

/** Days since 1970-01-01 of a date; dates are of the calendar, without hours or zones. */
const dayNumber = (date: string): number => Date.parse(date) / DAY_MS;

/** The half of a month that a day lies in, its number (2·m and 2·m + 1, January 0) and its last day. */
function halfOf(day: number): { half: number; last: number } {
  const at = new Date(day * DAY_MS);
  const [year, month] = [at.getUTCFullYear(), at.getUTCMonth()];
  const first = at.getUTCDate() <= 15;
  const last = first ? Date.UTC(year, month, 15) : Date.UTC(year, month + 1, 0);
  return { half: 2 * month + (first ? 0 : 1), last: last / DAY_MS };
}

/** The first due day after `since`; null where there is none up to `until`. */
function nextDue(days: HalfMonthDays, since: number, until: number): number | null {
  for (let from = since + 1; from <= until; ) {
    const { half, last } = halfOf(from);
    const every = days.everyDays[half] ?? 0;
    const due = Math.max(from, since + every);
    if (every > 0 && due <= last) return due <= until ? due : null;
    from = last + 1;
  }
  return null;
}

/** Counted by the calendar alone: holds and from/until do not shift it (site-file#additions). */
function isDue(days: HalfMonthDays, date: string): boolean {
  const wanted = dayNumber(date);
  let last = dayNumber(days.anchor);
  if (wanted < last) return false;
  if (wanted === last) return (days.everyDays[halfOf(wanted).half] ?? 0) > 0;
  for (;;) {
    const due = nextDue(days, last, wanted);
    if (due === null) return false;
    if (due === wanted) return true;
    last = due;
  }
}

function perWeek({ everyDays }: HalfMonthDays): number {
  return everyDays.reduce((sum, every) => sum + (every > 0 ? 7 / every : 0), 0) / everyDays.length;
}

/** Halves of one interval after the other are told together: "every 3 from 1 Apr, 2 from 16 May, none from 16 Oct". */
function words({ everyDays, anchor }: HalfMonthDays, write = asIs): string {
  const turns = everyDays.flatMap((every, half) => {
    if (half > 0 && every === everyDays[half - 1]) return [];
    const at = `${half % 2 === 0 ? 1 : 16} ${MONTHS[half >> 1]}`;
    return [`${every === 0 ? "none" : `every ${every} day${every === 1 ? "" : "s"}`} from ${at}`];
  });
  return `by half-month: ${turns.join(", ")}; counted from ${write(anchor)}`;
}

/** An interval for each half of every month; crossing into another half the count goes on from the last due day. */
export const halfMonthRule: DayRule<HalfMonthDays> & { schema: typeof schema } = {
  schema,
  label: "by half-month",
  ability: "halfMonth",
  blank: (date) => ({ type: "halfMonth", everyDays: Array.from({ length: 24 }, () => 3), anchor: date }),
  due: isDue,
  perWeek,
  words,
  never: (days) => days.everyDays.every((every) => every === 0),
  countedFrom: (days, date) => ({ ...days, anchor: date }),
};
