import { nth } from "../checked.ts";
import { addDays, type EpochS } from "../dates/wall-time.ts";
import { union, windowIntervals } from "../calendar/windows.ts";
import { playNight } from "../dispatch/plan.ts";
import type { Waterworks } from "../network/waterworks.ts";

export type BusyHours = { from: EpochS; to: EpochS; why: "handWatering" | "scheduledRuns" };

/** When a connected system may not be learned: hand-watering hours of its POCs, and the runs that its programs have there, from the night before on. Sorted. */
export function busyHours(w: Waterworks, system: { index: number; pocs: number[] }, date: string): BusyHours[] {
  const { site } = w;
  const first = addDays(date, -1);
  const windows = system.pocs.flatMap((p) => (site.pocs[p]?.handWatering ?? []).map((h) => h.window));
  const hand = windowIntervals(site.site.timeZone, windows, first, 3).map((i) => ({
    ...i,
    why: "handWatering" as const,
  }));
  const runs = [first, date, addDays(date, 1)]
    .flatMap((d) => playNight(w, d).runs)
    .filter((r) => w.systemOfMainline[nth(w.stationMainline, r.station)] === system.index);
  const scheduled = union(runs.map((r) => ({ from: r.start, to: r.end }))).map((i) => ({
    ...i,
    why: "scheduledRuns" as const,
  }));
  return [...hand, ...scheduled].sort((a, b) => a.from - b.from);
}
