"use client";
import { ChevronRight } from "lucide-react";
import { Button } from "@/components/kit/button";
import { useState } from "react";
import { WEEKDAYS } from "@/core/dates/wall-time";
import { onWholeHours, weekHours, windowsOfWeek } from "@/core/calendar/week-grid";
import type { WaterWindow } from "@/core/site-file/schema";

type Props = {
  windows: WaterWindow[] | undefined;
  closed: WaterWindow[] | undefined;
  starts: string[];
  disabled?: boolean;
  onCommit: (windows: WaterWindow[] | undefined) => void;
};

/** The week, hour by hour: when the program may water, when it may not, when it starts. Press an hour, or drag over several, to open or close it. */
export function WeekGrid({ windows, closed, starts, disabled, onCommit }: Props) {
  const [painting, setPainting] = useState<{ to: boolean; hours: boolean[] } | null>(null);
  const whole = onWholeHours(windows ?? []);
  const open = windows ? weekHours(windows) : Array<number>(168).fill(1);
  const shut = weekHours(closed ?? []);
  const now = painting?.hours ?? open.map((h) => h >= 0.5);
  const startHours = new Set(starts.map((s) => Number(s.slice(0, 2))));
  const begin = (h: number): void => {
    if (disabled || !whole) return;
    const hours = open.map((x) => x === 1);
    hours[h] = !hours[h];
    setPainting({ to: hours[h] as boolean, hours });
  };
  const over = (h: number): void => {
    if (painting) setPainting({ ...painting, hours: painting.hours.map((x, i) => (i === h ? painting.to : x)) });
  };
  const end = (): void => {
    if (!painting) return;
    onCommit(painting.hours.every((x) => x) ? undefined : windowsOfWeek(painting.hours));
    setPainting(null);
  };
  return (
    <div role="group" aria-label="Hours of the week" onPointerUp={end} onPointerLeave={end}>
      <div className="grid grid-cols-[2rem_repeat(24,minmax(0,1fr))] select-none touch-none">
        <span />
        {Array.from({ length: 24 }, (_, h) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
          <span key={h} className="text-[11px] text-faint text-center">
            {h % 3 === 0 ? h : ""}
          </span>
        ))}
        {WEEKDAYS.map((day, d) => (
          <div key={day} className="contents">
            <span className="text-sm text-faint">{day}</span>
            {Array.from({ length: 24 }, (_, hour) => {
              const h = d * 24 + hour;
              const part = open[h] ?? 0;
              const closedNow = (shut[h] ?? 0) > 0;
              const may = now[h] ?? false;
              const state = may ? "may water" : "no watering";
              return (
                <Button
                  rank="bare"
                  // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                  key={hour}
                  tabIndex={hour === 0 && d === 0 ? 0 : -1}
                  disabled={disabled || !whole}
                  aria-pressed={may}
                  aria-label={`${day} ${hour}:00, ${closedNow ? "closed hours" : state}`}
                  className={`relative h-[15px] border-r border-b border-base-300 first-of-type:border-l ${may ? "bg-primary" : "bg-base-200"} ${closedNow ? "opacity-40" : ""} focus-visible:z-10`}
                  style={part > 0 && part < 1 && !painting ? { opacity: 0.6 } : undefined}
                  onPointerDown={(e) => {
                    e.currentTarget.releasePointerCapture(e.pointerId);
                    begin(h);
                  }}
                  onPointerEnter={() => over(h)}
                  onKeyDown={(e) => {
                    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -24, ArrowDown: 24 }[e.key];
                    if (step !== undefined) {
                      e.preventDefault();
                      e.currentTarget
                        .closest('[role="group"]')
                        ?.querySelectorAll("button")
                        [(h + step + 168) % 168]?.focus();
                    }
                    if (e.key === "Enter" || e.key === " ") {
                      e.preventDefault();
                      const hours = open.map((x) => x === 1);
                      hours[h] = !hours[h];
                      onCommit(hours.every((x) => x) ? undefined : windowsOfWeek(hours));
                    }
                  }}
                >
                  {startHours.has(hour) && (
                    <span
                      className={`absolute inset-0 text-[10px] leading-[15px] ${may ? "text-primary-content" : ""}`}
                      aria-hidden="true"
                    >
                      <ChevronRight className="inline size-[1em] align-[-0.12em]" aria-hidden />
                    </span>
                  )}
                </Button>
              );
            })}
          </div>
        ))}
      </div>
      <p className="text-xs text-faint mt-0.5">
        {whole
          ? "Dark: may water; starts; pale: closed hours. Press or drag to change, arrows and Enter by keyboard."
          : "A window begins or ends within an hour: change it in the list; the grid only shows it."}
      </p>
    </div>
  );
}
