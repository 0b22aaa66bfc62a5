"use client";
import { patched, type Patch } from "@/core/site-file/patch";
import type { WaterWindow } from "@/core/site-file/schema";
import type { Weekday } from "@/core/dates/weekday";

export const WEEKDAYS: [Weekday, string][] = [
  ["mon", "Mon"],
  ["tue", "Tue"],
  ["wed", "Wed"],
  ["thu", "Thu"],
  ["fri", "Fri"],
  ["sat", "Sat"],
  ["sun", "Sun"],
];

/** Hours of the week; `to` at or before `from` is on the next day. */
export function WindowList({
  label,
  value,
  onCommit,
  disabled,
}: {
  label: string;
  value: WaterWindow[] | undefined;
  onCommit: (value: WaterWindow[] | undefined) => void;
  disabled?: boolean | undefined;
}) {
  const list = value ?? [];
  const put = (next: WaterWindow[]): void => onCommit(next.length === 0 ? undefined : next);
  const change = (i: number, values: Patch<WaterWindow>): void =>
    put(list.map((w, n) => (n === i ? patched(w, values) : w)));
  return (
    <fieldset>
      <legend className="text-sm faint">{label}</legend>
      {list.map((w, i) => (
        <div key={`${i}-${list.length}`} className="flex flex-wrap items-center gap-2 py-0.5">
          <input
            type="time"
            aria-label={`${label}: from`}
            className="entry !w-28"
            value={w.from}
            disabled={disabled}
            onChange={(e) => e.target.value && change(i, { from: e.target.value })}
          />
          <span>to</span>
          <input
            type="time"
            aria-label={`${label}: to`}
            className="entry !w-28"
            value={w.to}
            disabled={disabled}
            onChange={(e) => e.target.value && change(i, { to: e.target.value })}
          />
          <span className="text-sm faint">{w.to <= w.from ? "next day" : ""}</span>
          <DayTicks
            label={`${label}: begins on`}
            days={w.days ?? WEEKDAYS.map(([d]) => d)}
            disabled={disabled}
            onCommit={(days) => change(i, { days: days.length === 7 ? undefined : days })}
          />
          {!disabled && (
            <button type="button" className="act act-quiet" onClick={() => put(list.filter((_, n) => n !== i))}>
              Remove
            </button>
          )}
        </div>
      ))}
      {!disabled && (
        <button type="button" className="act" onClick={() => put([...list, { from: "22:00", to: "06:00" }])}>
          + hours
        </button>
      )}
    </fieldset>
  );
}

export function DayTicks({
  label,
  days,
  onCommit,
  disabled,
}: {
  label: string;
  days: Weekday[];
  onCommit: (days: Weekday[]) => void;
  disabled?: boolean | undefined;
}) {
  return (
    <span role="group" aria-label={label} className="inline-flex border rule">
      {WEEKDAYS.map(([day, words]) => {
        const on = days.includes(day);
        return (
          <button
            key={day}
            type="button"
            disabled={disabled}
            aria-pressed={on}
            onClick={() => onCommit(WEEKDAYS.map(([d]) => d).filter((d) => (d === day ? !on : days.includes(d))))}
            className={`px-1.5 min-h-[1.9rem] cursor-pointer border-r rule last:border-r-0 ${on ? "bg-base-content text-base-100 font-semibold" : "faint"}`}
          >
            {words}
          </button>
        );
      })}
    </span>
  );
}
