import { nth } from "../checked.ts";
import type { WaterWindow } from "../site-file/schema.ts";
import type { Weekday } from "../dates/weekday.ts";
import { WEEKDAYS } from "../dates/wall-time.ts";

const HOURS = 168;
const minutes = (hhmm: string): number => Number(hhmm.slice(0, 2)) * 60 + Number(hhmm.slice(3));
const clock = (hour: number): string => `${String(hour % 24).padStart(2, "0")}:00`;

/** Which minutes of the week windows hold, Monday 00:00 first; of wall time, clock changes aside. */
export function weekMinutes(windows: WaterWindow[]): Uint8Array {
  const held = new Uint8Array(HOURS * 60);
  for (const w of windows)
    for (const day of w.days ?? WEEKDAYS) {
      const from = WEEKDAYS.indexOf(day) * 1440 + minutes(w.from);
      const length = (minutes(w.to) - minutes(w.from) + 1440) % 1440 || 1440;
      held.fill(1, from, from + length);
      // What passes the end of the week is at its beginning.
      held.fill(1, 0, Math.max(0, from + length - HOURS * 60));
    }
  return held;
}

/** Share of each hour of the week that windows cover, 0 to 1, Monday 00:00 first; of wall time, clock changes aside. */
export function weekHours(windows: WaterWindow[]): number[] {
  const held = weekMinutes(windows);
  const hours = new Array<number>(HOURS).fill(0);
  for (let m = 0; m < held.length; m++)
    if (held[m]) hours[Math.floor(m / 60)] = nth(hours, Math.floor(m / 60)) + 1 / 60;
  return hours.map((h) => (h > 1 - 1e-9 ? 1 : h));
}

/** Are all windows on whole hours, so that a grid of hours can say them fully? */
export function onWholeHours(windows: WaterWindow[]): boolean {
  return windows.every((w) => w.from.endsWith(":00") && w.to.endsWith(":00"));
}

/** Hours of the week → windows, as few as there are different spans; spans pass midnight, and the week's end. */
export function windowsOfWeek(open: boolean[]): WaterWindow[] {
  if (open.every((o) => o)) return [{ from: "00:00", to: "00:00" }];
  const spans = new Map<string, Weekday[]>();
  for (let h = 0; h < HOURS; h++) {
    if (!open[h] || open[(h + HOURS - 1) % HOURS]) continue;
    let left = 1;
    while (open[(h + left) % HOURS]) left++;
    // A window is at most a day long; a longer span is several, one after another.
    for (let at = h; left > 0; ) {
      const length = Math.min(24, left);
      const key = `${clock(at)} ${clock(at + length)}`;
      spans.set(key, [...(spans.get(key) ?? []), nth(WEEKDAYS, Math.floor((at % HOURS) / 24))]);
      at += length;
      left -= length;
    }
  }
  return [...spans].map(([key, days]) => {
    const [from, to] = key.split(" ") as [string, string];
    return { ...(days.length === 7 ? {} : { days: WEEKDAYS.filter((d) => days.includes(d)) }), from, to };
  });
}
