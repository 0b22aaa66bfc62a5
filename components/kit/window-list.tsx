"use client";
import { Plus } from "lucide-react";
import { TimeField } from "@/components/kit/time-field";

import { MultiSegments } from "./segments";
import { Button } from "@/components/kit/button";
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
      <legend className="text-sm text-faint">{label}</legend>
      {list.map((w, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
        <div key={`${i}-${list.length}`} className="flex flex-wrap items-center gap-2 py-0.5">
          <TimeField
            label={`${label}: from`}
            hideLabel
            required
            value={w.from}
            disabled={disabled}
            onCommit={(v) => v && change(i, { from: v })}
          />
          <span>to</span>
          <TimeField
            label={`${label}: to`}
            hideLabel
            required
            value={w.to}
            disabled={disabled}
            onCommit={(v) => v && change(i, { to: v })}
          />
          <span className="text-sm text-faint">{w.to <= w.from ? "next day" : ""}</span>
          <DayTicks
            label={`${label}: begins on`}
            days={w.days ?? WEEKDAYS.map(([d]) => d)}
            disabled={disabled}
            onCommit={(days) => change(i, { days: days.length === 7 ? undefined : days })}
          />
          {!disabled && (
            <Button rank="quiet" onClick={() => put(list.filter((_, n) => n !== i))}>
              Remove
            </Button>
          )}
        </div>
      ))}
      {!disabled && (
        <Button icon={Plus} onClick={() => put([...list, { from: "22:00", to: "06:00" }])}>
          hours
        </Button>
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
    <MultiSegments
      label={label}
      options={WEEKDAYS.map(([id, words]) => ({ id, label: words }))}
      on={days}
      disabled={disabled}
      onChange={onCommit}
    />
  );
}
