import { CalendarClock, ClipboardCheck, ListTodo, type LucideIcon, MoonStar, Power, Sprout } from "lucide-react";
import Link from "next/link";
import { classes } from "@/components/kit/classes";
import { CALENDAR_PLACES } from "@/contracts/calendar";
import type { CalendarEntry, CalendarKind } from "@/core/visits/calendar";

/** How each kind is told: its shape, its word, and its word for several. */
export const KIND_WORDS: Record<CalendarKind, { icon: LucideIcon; one: string; many: string }> = {
  visit: { icon: ClipboardCheck, one: "visit", many: "Visits" },
  todo: { icon: ListTodo, one: "to do", many: "To do" },
  due: { icon: CalendarClock, one: "due", many: "Due" },
  program: { icon: Sprout, one: "program", many: "Programs" },
  off: { icon: Power, one: "off", many: "Off" },
  night: { icon: MoonStar, one: "full night", many: "Full nights" },
};

/** One thing in the calendar, and the way to it. @param brief for the grid: the site first, cut to two lines */
export function EntryLine({ entry: e, brief = false }: { entry: CalendarEntry; brief?: boolean }) {
  const { icon: Icon, one } = KIND_WORDS[e.what];
  return (
    <Link
      href={`/sites/${e.siteId}/${CALENDAR_PLACES[e.what]}`}
      title={`${e.site}: ${e.words}`}
      className={classes("flex min-w-0 items-start gap-1 hover:underline", brief && "text-xs", e.late && "text-error")}
    >
      <Icon className="mt-0.5 size-3.5 shrink-0" aria-hidden />
      <span className="sr-only">{one}: </span>
      <span className={brief ? "line-clamp-2 leading-tight" : "min-w-0"}>
        <span className="font-semibold">{e.site}</span> {e.words}
        {e.late && (brief ? <span className="sr-only"> (overdue)</span> : " (overdue)")}
      </span>
    </Link>
  );
}
