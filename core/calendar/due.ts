import type { Program } from "../site-file/schema.ts";
import { ruleOf } from "../dates/day-rules.ts";

/** Is the program due on a local date by its day rule, its from/until dates (both included) and its own hold? (handbook#6-programs) */
export function isDue(program: Program, date: string): boolean {
  if (isHeld(program, date)) return false;
  if (program.from !== undefined && date < program.from) return false;
  if (program.until !== undefined && date > program.until) return false;
  return ruleOf(program.days).due(program.days, date);
}

/** Is the program itself held on a local date? On the day it names it waters again. */
export function isHeld(program: Program, date: string): boolean {
  return program.holdUntil === "indefinite" || (program.holdUntil !== undefined && date < program.holdUntil);
}
