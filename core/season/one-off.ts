import { adjustedSeconds } from "../calendar/run-time.ts";
import { localClock, localDate } from "../dates/wall-time.ts";
import { plan, type Plan } from "../dispatch/plan.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";

/** A run that leaves the schedule as it is. A single station ignores weather inputs and says so. */
export type OneOff =
  | { kind: "station"; stationId: string; minutes: number }
  | { kind: "program"; programId: string; fromStationId?: string; skipStationId?: string }
  | { kind: "walk"; controllerId: string; minutes: number };
export type OneOffPlan = { plan: Plan; litres: number; seconds: number; ignoresWeather: boolean };

/**
 * What a one-off run would do when begun at an instant: the dispatcher with only this in its queue. Walk test: every station of the controller in the
 * order of numbers, one at a time (handbook#6-programs).
 * @param at whole seconds since the epoch; the run begins at the whole minute.
 */
export function oneOff(site: SiteFile, run: OneOff, at: number): OneOffPlan {
  const { timeZone } = site.site;
  const date = localDate(timeZone, at);
  const alone: SiteFile = {
    ...site,
    site: { ...site.site, seasonalPercent: 100, weatherPercents: undefined, holdUntil: undefined },
    controllers: site.controllers.map((c) => ({ ...c, off: undefined })),
    // What someone walks along or waits beside runs in one piece.
    stations: run.kind === "program" ? site.stations : site.stations.map((s) => ({ ...s, cycle: undefined })),
    programs: [asProgram(site, run, localClock(timeZone, at), date)],
  };
  const made = plan(alone, date);
  const litres = made.runs.reduce(
    (sum, r) => sum + ((r.flowLpm ?? 0) * (Date.parse(r.end) - Date.parse(r.start))) / 60_000,
    0,
  );
  return { plan: made, litres, seconds: made.makespanS, ignoresWeather: run.kind === "station" };
}

function asProgram(site: SiteFile, run: OneOff, start: string, date: string): Program {
  const base = { id: "one-off", starts: [start], days: { type: "interval" as const, everyDays: 1, anchor: date } };
  switch (run.kind) {
    case "station": {
      const s = site.stations.find((x) => x.id === run.stationId);
      return {
        ...base,
        name: "One station",
        controllerId: s?.controllerId ?? "",
        runs: s ? [{ stationId: s.id, minutes: run.minutes }] : [],
      };
    }
    case "program": {
      const p = site.programs.find((x) => x.id === run.programId) as Program;
      const first =
        run.fromStationId === undefined
          ? 0
          : Math.max(
              0,
              p.runs.findIndex((r) => r.stationId === run.fromStationId),
            );
      // Minutes as they run tonight: the percents are in them already.
      const runs = p.runs
        .slice(first)
        .filter((r) => r.stationId !== run.skipStationId)
        .map((r) => ({ ...r, minutes: adjustedSeconds(site, p, r.minutes, date) / 60 }));
      return {
        ...base,
        name: p.name,
        controllerId: p.controllerId,
        ...(p.maxStationsAtOnce === undefined ? {} : { maxStationsAtOnce: p.maxStationsAtOnce }),
        ...(p.cycle === undefined ? {} : { cycle: p.cycle }),
        ...(p.soakMin === undefined ? {} : { soakMin: p.soakMin }),
        ...(p.delayS === undefined ? {} : { delayS: p.delayS }),
        runs,
      };
    }
    case "walk":
      return {
        ...base,
        name: "Walk test",
        controllerId: run.controllerId,
        dispatch: "strict",
        maxStationsAtOnce: 1,
        runs: site.stations
          .filter((s) => s.controllerId === run.controllerId && !s.lockedOut)
          .sort((a, b) => a.number - b.number)
          .map((s) => ({ stationId: s.id, minutes: run.minutes })),
      };
  }
}
