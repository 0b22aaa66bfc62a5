import { nth } from "../checked.ts";
import { startsOn } from "../site-file/starts.ts";
import { isDue } from "../calendar/due.ts";
import { adjustedSeconds, cycleAndSoak, cyclesOf } from "../calendar/run-time.ts";
import { inputStarts } from "../calendar/input-signal.ts";
import { addDays, type EpochS, instantOf } from "../dates/wall-time.ts";
import { isInside, openIntervals } from "../calendar/windows.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";

const DAY_S = 86_400;

/** One station's work in one start of a program: its cycles, and how far it has got. */
export type Entry = {
  start: ProgramStart;
  station: number;
  program: number;
  /** Expected flow, L/min; null when the station has no figure at all. */
  flowLpm: number | null;
  cycles: number[];
  /** Between one cycle and the next, s. */
  soakS: number;
  /** Place of the current cycle, from 0. */
  cycle: number;
  /** Seconds left of the current cycle. */
  leftS: number;
  /** Not before this instant: its soak. */
  readyAt: EpochS;
  state: "waiting" | "running" | "suspended" | "done";
  openedAt: EpochS;
  openOrder: number;
  deliveredS: number;
  shortS: number;
  /** Why it was last passed over, and since when. */
  blocked: Block | null;
};

export type BlockCode =
  | "soak"
  | "window"
  | "input"
  | "delay"
  | "stationRunning"
  | "programAtOnce"
  | "controllerAtOnce"
  | "siteAtOnce"
  | "ceiling"
  | "runsAlone"
  | "pumpMinimum"
  | "strictOrder"
  | "search"
  | "earlierStart"
  | "lockedOut";
export type Block = { code: BlockCode; elementId?: string; since: EpochS };

export type ProgramStart = {
  program: number;
  at: EpochS;
  /** What is left then is cut: 24 h after the start, or earlier at a start of the next day that finds it held back. */
  deadline: EpochS;
  /** The start of the next day that cuts it; null where the day's end does. */
  cutBy: EpochS | null;
  state: "pending" | "waiting" | "active" | "finished";
  entries: Entry[];
};

/** Why a date has no runs at all, if so. */
export function siteHold(site: SiteFile, date: string): "indefinite" | "until" | null {
  const hold = site.site.holdUntil;
  if (hold === undefined) return null;
  if (hold === "indefinite") return "indefinite";
  return date < hold ? "until" : null;
}

/** Programs that start on a local date: enabled, controller on, due. Holds are judged by the caller. */
export function duePrograms(site: SiteFile, date: string): { program: Program; index: number }[] {
  const off = new Set(site.controllers.filter((c) => c.off).map((c) => c.id));
  return site.programs
    .map((program, index) => ({ program, index }))
    .filter(({ program }) => program.enabled !== false && !off.has(program.controllerId) && isDue(program, date));
}

/** Scheduled starts of a local date and those that inputs give; an input adds none where one is scheduled that second. */
function startInstants(site: SiteFile, program: Program, date: string): EpochS[] {
  const scheduled = startsOn(program).map((hhmm) => instantOf(site.site.timeZone, date, hhmm));
  return [...new Set(scheduled), ...inputStarts(site, program, date).filter((at) => !scheduled.includes(at))];
}

/**
 * Starts of the next date at which the program is held back by window or closed hours: each cuts whatever is left of earlier ones
 * (site-file#later-starts). Known before the night, since windows are.
 */
function cutsOfTomorrow(site: SiteFile, date: string, program: Program): EpochS[] {
  if (!program.windows && !program.closedHours) return [];
  const tomorrow = addDays(date, 1);
  if (siteHold(site, tomorrow) || !isDue(program, tomorrow)) return [];
  const open = openIntervals(site.site.timeZone, program, addDays(date, -1), 4);
  return startInstants(site, program, tomorrow).filter((at) => !isInside(open, at) || !isInside(open, at - 1));
}

/** A station's work in a start, in its cycles; null for no seconds at all. */
export function entryOf(w: Waterworks, start: ProgramStart, station: number, seconds: number): Entry | null {
  const { site } = w;
  const { cycle, soakS } = cycleAndSoak(nth(site.stations, station), nth(site.programs, start.program));
  const cycles = cyclesOf(cycle, seconds);
  if (cycles.length === 0) return null;
  return {
    start,
    station,
    program: start.program,
    flowLpm: expectedFlow(nth(site.stations, station))?.lpm ?? null,
    cycles,
    soakS,
    cycle: 0,
    leftS: cycles[0] as number,
    readyAt: start.at,
    state: "waiting",
    openedAt: 0,
    openOrder: 0,
    deliveredS: 0,
    shortS: 0,
    blocked: null,
  };
}

/** Adjusted run times of a program, each length worked out once: it is reckoned in exact decimals. */
function secondsByMinutes(site: SiteFile, program: Program, date: string): (minutes: number) => number {
  const known = new Map<number, number>();
  return (minutes) => {
    const seconds = known.get(minutes) ?? adjustedSeconds(site, program, minutes, date);
    known.set(minutes, seconds);
    return seconds;
  };
}

/** Every start of the date with its queue entries, in order of time, then place in the file. */
export function programStarts(w: Waterworks, date: string): ProgramStart[] {
  const { site } = w;
  if (siteHold(site, date)) return [];
  const starts = duePrograms(site, date).flatMap(({ program, index }) => {
    const cuts = cutsOfTomorrow(site, date, program);
    const secondsOf = secondsByMinutes(site, program, date);
    return startInstants(site, program, date).map((at) => {
      const cutBy = cuts.find((cut) => cut > at && cut < at + DAY_S) ?? null;
      const deadline = cutBy ?? at + DAY_S;
      const start: ProgramStart = { program: index, at, deadline, cutBy, state: "pending", entries: [] };
      for (const run of program.runs) {
        const station = w.stationIndex.get(run.stationId) as number;
        const entry = entryOf(w, start, station, secondsOf(run.minutes));
        if (entry) start.entries.push(entry);
      }
      return start;
    });
  });
  return starts.sort((a, b) => a.at - b.at || a.program - b.program);
}

/** Seconds an entry still has to water: the rest of this cycle and all later ones. */
export function leftSeconds(entry: Entry): number {
  if (entry.state === "done") return 0;
  return entry.leftS + entry.cycles.slice(entry.cycle + 1).reduce((a, b) => a + b, 0);
}

/** Order of the queue: priority of the program, time of the start, then the order in the site file. */
export function byTurn({ site: { programs } }: Waterworks): (a: Entry, b: Entry) => number {
  const priority = (e: Entry): number => programs[e.program]?.priority ?? 1;
  return (a, b) =>
    priority(a) - priority(b) ||
    a.start.at - b.start.at ||
    a.program - b.program ||
    a.start.entries.indexOf(a) - b.start.entries.indexOf(b);
}
