import type { Program } from "../site-file/schema.ts";
import { dayOfMonth, daysBetween, monthOf, weekdayOf } from "./wall-time.ts";

/** Is the program due on a local date by its day rule, its from/until dates (both included) and its own hold? (handbook 6) */
export function isDue(program: Program, date: string): boolean {
  if (isHeld(program, date)) return false;
  if (program.from !== undefined && date < program.from) return false;
  if (program.until !== undefined && date > program.until) return false;
  const days = program.days;
  const day = dayOfMonth(date);
  switch (days.type) {
    case "weekdays":
      return days.days.includes(weekdayOf(date));
    case "odd": {
      const skipped = days.skip31st === true && (day === 31 || (day === 29 && monthOf(date) === 2));
      return day % 2 === 1 && !skipped;
    }
    case "even":
      return day % 2 === 0;
    case "interval": {
      const since = daysBetween(days.anchor, date);
      if (since < 0 || since % days.everyDays !== 0) return false;
      return !(days.neverOn ?? []).includes(weekdayOf(date));
    }
  }
}

/** Is the program itself held on a local date? On the day it names it waters again. */
export function isHeld(program: Program, date: string): boolean {
  return program.holdUntil === "indefinite" || (program.holdUntil !== undefined && date < program.holdUntil);
}
