import { startsOn } from "../core/site-file/starts.ts";
import { isDue } from "../core/calendar/due.ts";
import { adjustedSeconds, cyclesOf } from "../core/calendar/run-time.ts";
import { instantOf } from "../core/dates/wall-time.ts";
import { isInside, openIntervals } from "../core/calendar/windows.ts";
import { inputSignals, inputStarts } from "../core/calendar/input-signal.ts";
import { addDays } from "../core/dates/wall-time.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { carries } from "./feasible-plan.ts";

/**
 * A plain, slow reading of the handbook's dispatch: every second is visited, every question is asked anew, nothing is remembered but the queue. No pumps,
 * no source hours. Only to compare the real dispatcher with.
 */
type Item = {
  station: number;
  program: number;
  startAt: number;
  place: number;
  cycles: number[];
  left: number;
  readyAt: number;
  runningSince: number | null;
  cycle: number;
};
export type SlowRun = { stationId: string; programId: string; start: number; end: number; cycle: number };

export function slowDispatch(site: SiteFile, date: string): { runs: SlowRun[]; shortS: number } {
  const open = site.programs.map((p) => openIntervals(site.site.timeZone, p, addDays(date, -1), 4));
  const runs: SlowRun[] = [];
  let shortS = 0;
  const signals = site.programs.map((p) => inputSignals(site, p));
  const held = (item: Item, t: number): boolean =>
    (signals[item.program] ?? []).some(
      (s) =>
        s.does === "pause" &&
        isInside(s.intervals, t) &&
        !site.stations[item.station]?.ignoresInputs?.includes(s.inputId),
    );
  const lastClose = site.programs.map(() => Number.NEGATIVE_INFINITY);
  const pending = site.programs
    .map((p, program) => ({ p, program }))
    .filter(({ p }) => isDue(p, date))
    .flatMap(({ p, program }) =>
      [
        ...new Set([...startsOn(p).map((s) => instantOf(site.site.timeZone, date, s)), ...inputStarts(site, p, date)]),
      ].map((at) => ({ program, at })),
    )
    .sort((a, b) => a.at - b.at || a.program - b.program);
  const waiting: typeof pending = [];
  const tomorrow = site.programs.flatMap((p, program) =>
    isDue(p, addDays(date, 1))
      ? [
          ...startsOn(p).map((s) => instantOf(site.site.timeZone, addDays(date, 1), s)),
          ...inputStarts(site, p, addDays(date, 1)),
        ].map((at) => ({ program, at }))
      : [],
  );
  const active = new Map<number, { at: number; items: Item[] }>();
  const alone = (station: number): boolean =>
    carries(site, [
      { main: site.stations[station]?.mainlineId as string, lpm: site.stations[station]?.designFlowLpm ?? 0 },
    ]);
  const all = (): Item[] => [...active.values()].flatMap((a) => a.items);
  const close = (item: Item, t: number): void => {
    if (item.runningSince === null) return;
    if (t > item.runningSince)
      runs.push({
        stationId: site.stations[item.station]?.id as string,
        programId: site.programs[item.program]?.id as string,
        start: item.runningSince,
        end: t,
        cycle: item.cycle + 1,
      });
    item.left -= t - item.runningSince;
    item.runningSince = null;
    lastClose[item.program] = t;
    if (item.left === 0) {
      item.cycle++;
      item.left = item.cycles[item.cycle] ?? 0;
      item.readyAt = t + (site.stations[item.station]?.soakMin ?? site.programs[item.program]?.soakMin ?? 0) * 60;
    } else item.readyAt = t;
  };
  const unfinished = (item: Item): boolean => item.cycle < item.cycles.length;
  const drop = (program: number, t: number): void => {
    for (const item of active.get(program)?.items ?? []) {
      close(item, t);
      if (unfinished(item)) shortS += item.left + item.cycles.slice(item.cycle + 1).reduce((a, b) => a + b, 0);
    }
    active.delete(program);
  };
  for (let t = pending[0]?.at ?? 0; pending.length + waiting.length + active.size > 0; t++) {
    for (const item of all()) if (item.runningSince !== null && t - item.runningSince === item.left) close(item, t);
    for (const item of all())
      if (item.runningSince !== null && (!isInside(open[item.program] ?? [], t) || held(item, t))) close(item, t);
    for (const [program, a] of [...active]) if (t >= a.at + 86_400) drop(program, t);
    for (const { program, at } of tomorrow) {
      const intervals = open[program] ?? [];
      if (at === t && (!isInside(intervals, t) || !isInside(intervals, t - 1))) drop(program, t);
    }
    for (const [program, a] of [...active]) if (!a.items.some(unfinished)) active.delete(program);
    while (pending[0] && pending[0].at <= t) {
      const start = pending.shift() as (typeof pending)[number];
      const intervals = open[start.program] ?? [];
      if (active.has(start.program) && (!isInside(intervals, t) || !isInside(intervals, t - 1))) drop(start.program, t);
      waiting.push(start);
    }
    for (const start of [...waiting]) {
      if (active.has(start.program)) continue;
      waiting.splice(waiting.indexOf(start), 1);
      const program = site.programs[start.program] as SiteFile["programs"][number];
      const items: Item[] = [];
      for (const [place, run] of program.runs.entries()) {
        const station = site.stations.findIndex((s) => s.id === run.stationId);
        const cycles = cyclesOf(
          site.stations[station]?.cycle ?? program.cycle,
          adjustedSeconds(site, program, run.minutes, date),
        );
        if (cycles.length === 0) continue;
        if (!alone(station)) shortS += cycles.reduce((a, b) => a + b, 0);
        else
          items.push({
            station,
            program: start.program,
            startAt: start.at,
            place,
            cycles,
            left: cycles[0] as number,
            readyAt: t,
            runningSince: null,
            cycle: 0,
          });
      }
      if (items.length > 0) active.set(start.program, { at: start.at, items });
    }
    const queue = all()
      .filter(unfinished)
      .sort(
        (a, b) =>
          (site.programs[a.program]?.priority ?? 1) - (site.programs[b.program]?.priority ?? 1) ||
          a.startAt - b.startAt ||
          a.program - b.program ||
          a.place - b.place,
      );
    const ended = new Set<number>();
    for (const item of queue) {
      if (item.runningSince !== null || ended.has(item.program)) continue;
      const program = site.programs[item.program] as SiteFile["programs"][number];
      if (item.readyAt > t) continue;
      const running = queue.filter((q) => q.runningSince !== null);
      const controllerId = site.stations[item.station]?.controllerId;
      const fits =
        isInside(open[item.program] ?? [], t) &&
        !held(item, t) &&
        t >= (lastClose[item.program] as number) + (program.delayS ?? 0) &&
        !running.some((r) => r.station === item.station) &&
        running.filter((r) => r.program === item.program).length < (program.maxStationsAtOnce ?? 1) &&
        running.filter((r) => site.stations[r.station]?.controllerId === controllerId).length <
          (site.controllers.find((c) => c.id === controllerId)?.maxStationsAtOnce ?? Number.POSITIVE_INFINITY) &&
        running.length < (site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY) &&
        carries(
          site,
          [...running, item].map((r) => ({
            main: site.stations[r.station]?.mainlineId as string,
            lpm: site.stations[r.station]?.designFlowLpm ?? 0,
          })),
        );
      if (fits) item.runningSince = t;
      else if (program.dispatch === "strict") ended.add(item.program);
    }
  }
  return { runs, shortS };
}
