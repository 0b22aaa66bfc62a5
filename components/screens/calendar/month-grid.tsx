"use client";
import { createContext, useContext } from "react";
import { DayPicker, type DayProps } from "react-day-picker";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
import { useLanguage } from "@/components/kit/conventions";
import { asDate, asIso, LOCALES } from "@/components/kit/dates";
import type { CalendarEntry } from "@/core/visits/calendar";
import { EntryLine } from "./entry-line";

/** So many stand in a day's cell; the others are counted, and listed when the day is chosen. */
const IN_CELL = 3;

type Shown = {
  today: string;
  byDay: ReadonlyMap<string, readonly CalendarEntry[]>;
  day: string | null;
  onDay: (day: string) => void;
};
const ShownContext = createContext<Shown>({ today: "", byDay: new Map(), day: null, onDay: () => {} });

const LOOKS = {
  month_caption: "sr-only",
  month_grid: "w-full table-fixed border-collapse",
  weekday: "border border-base-300 bg-base-200 px-2 py-1 text-left text-xs font-semibold",
};

/** A month, week by week, with what stands in each day. */
export function MonthGrid({ month, ...shown }: Shown & { month: string }) {
  const language = useLanguage();
  return (
    <ShownContext value={shown}>
      <DayPicker
        month={asDate(`${month}-01`)}
        locale={LOCALES[language]}
        weekStartsOn={1}
        showOutsideDays
        hideNavigation
        classNames={LOOKS}
        components={{ Day: DayCell }}
      />
    </ShownContext>
  );
}

function DayCell({ day, modifiers }: DayProps) {
  const shown = useContext(ShownContext);
  const on = asIso(day.date);
  const entries = shown.byDay.get(on) ?? [];
  const more = entries.length - IN_CELL;
  return (
    <td
      aria-current={on === shown.today ? "date" : undefined}
      className={classes(
        "h-28 border border-base-300 p-1 align-top",
        modifiers["outside"] && "bg-base-200 text-faint",
        on === shown.day && "outline-2 outline-base-content -outline-offset-2",
      )}
    >
      <Button
        rank="bare"
        className={classes(
          "px-1 text-sm tabular-nums hover:underline",
          on === shown.today && "bg-base-content font-semibold text-base-100",
        )}
        aria-label={`${on}, ${entries.length} ${entries.length === 1 ? "entry" : "entries"}`}
        aria-pressed={on === shown.day}
        onClick={() => shown.onDay(on)}
      >
        {day.date.getDate()}
      </Button>
      {entries.length > 0 && (
        <ul className="mt-0.5 grid gap-0.5">
          {entries.slice(0, IN_CELL).map((e) => (
            <li key={e.key} className="min-w-0">
              <EntryLine entry={e} brief />
            </li>
          ))}
          {more > 0 && (
            <li>
              <Button rank="bare" className="px-1 text-xs text-faint hover:underline" onClick={() => shown.onDay(on)}>
                and {more} more
              </Button>
            </li>
          )}
        </ul>
      )}
    </td>
  );
}
