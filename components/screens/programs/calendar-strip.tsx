"use client";
import { useWorkspace } from "@/components/draft/site-draft";
import { classes } from "@/components/kit/classes";
import { useConventions } from "@/components/kit/conventions";
import { isDue } from "@/core/calendar/due";
import { addDays, weekdayOf } from "@/core/dates/wall-time";
import type { Program } from "@/core/site-file/schema";

/** The next six weeks: which dates the rule waters. */
export function CalendarStrip({ program }: { program: Program }) {
  const { date } = useWorkspace("date");
  const { date: write } = useConventions();
  const days = Array.from({ length: 42 }, (_, i) => addDays(date, i));
  const due = days.filter((d) => isDue(program, d));
  return (
    <div>
      <div
        className="grid grid-cols-[repeat(14,minmax(0,1fr))] border-l border-t border-base-300"
        role="img"
        aria-label={`Waters on ${due.length} of the next 42 days: ${due.slice(0, 8).map(write).join(", ")}${due.length > 8 ? " and so on" : ""}`}
      >
        {days.map((d) => {
          const on = isDue(program, d);
          const weekend = ["sat", "sun"].includes(weekdayOf(d));
          return (
            <span
              key={d}
              title={`${weekdayOf(d)} ${write(d)}${on ? ", waters" : ""}`}
              className={classes(
                "border-r border-b border-base-300 text-center text-xs leading-[1.35rem]",
                on ? "bg-primary font-semibold text-primary-content" : "text-faint",
                !on && weekend && "bg-base-200",
              )}
            >
              {Number(d.slice(8))}
            </span>
          );
        })}
      </div>
      <p className="text-xs text-faint">
        The next six weeks from {write(date)}: {due.length} days.
      </p>
    </div>
  );
}
