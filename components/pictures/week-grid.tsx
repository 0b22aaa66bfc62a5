"use client";
import { ChevronRight } from "lucide-react";
import { Button } from "@/components/kit/button";
import { classes } from "@/components/kit/classes";
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
  const onKey = (e: React.KeyboardEvent<HTMLButtonElement>, h: number): void => {
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -24, ArrowDown: 24 }[e.key];
    if (step === undefined && e.key !== "Enter" && e.key !== " ") return;
    e.preventDefault();
    if (step !== undefined) {
      const hours = e.currentTarget.closest('[role="group"]')?.querySelectorAll("button");
      hours?.[(h + step + 168) % 168]?.focus();
      return;
    }
    const hours = open.map((x) => x === 1);
    hours[h] = !hours[h];
    onCommit(hours.every((x) => x) ? undefined : windowsOfWeek(hours));
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
            <span className="text-xs leading-[15px] text-faint">{day}</span>
            {Array.from({ length: 24 }, (_, hour) => {
              const h = d * 24 + hour;
              return (
                <Hour
                  // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
                  key={hour}
                  label={`${day} ${hour}:00`}
                  may={now[h] ?? false}
                  closed={(shut[h] ?? 0) > 0}
                  inPart={!painting && (open[h] ?? 0) > 0 && (open[h] ?? 0) < 1}
                  starts={startHours.has(hour)}
                  focusable={h === 0}
                  disabled={disabled === true || !whole}
                  onBegin={() => begin(h)}
                  onOver={() => over(h)}
                  onKey={(e) => onKey(e, h)}
                />
              );
            })}
          </div>
        ))}
      </div>
      <p className="text-xs text-faint mt-0.5">
        {whole ? (
          <>
            Dark: may water; <ChevronRight className="inline size-[1em] align-[-0.12em]" aria-hidden /> starts; pale:
            closed hours. Press or drag to change, arrows and Enter by keyboard.
          </>
        ) : (
          "A window begins or ends within an hour: change it in the list; the grid only shows it."
        )}
      </p>
    </div>
  );
}

type HourProps = {
  label: string;
  may: boolean;
  closed: boolean;
  /** A window begins or ends within it. */
  inPart: boolean;
  starts: boolean;
  focusable: boolean;
  disabled: boolean;
  onBegin: () => void;
  onOver: () => void;
  onKey: (e: React.KeyboardEvent<HTMLButtonElement>) => void;
};

function Hour({ label, may, closed, inPart, starts, focusable, disabled, onBegin, onOver, onKey }: HourProps) {
  const state = may ? "may water" : "no watering";
  return (
    <Button
      rank="bare"
      tabIndex={focusable ? 0 : -1}
      disabled={disabled}
      aria-pressed={may}
      aria-label={`${label}, ${closed ? "closed hours" : state}`}
      className={classes(
        "relative h-[15px] border-r border-b border-base-300 first-of-type:border-l focus-visible:z-10",
        may ? "bg-primary" : "bg-base-200",
        closed && "opacity-40",
      )}
      style={inPart ? { opacity: 0.6 } : undefined}
      onPointerDown={(e) => {
        e.currentTarget.releasePointerCapture(e.pointerId);
        onBegin();
      }}
      onPointerEnter={onOver}
      onKeyDown={onKey}
    >
      {starts && (
        <span
          className={`absolute inset-0 text-[10px] leading-[15px] ${may ? "text-primary-content" : ""}`}
          aria-hidden="true"
        >
          <ChevronRight className="inline size-[1em] align-[-0.12em]" aria-hidden />
        </span>
      )}
    </Button>
  );
}
