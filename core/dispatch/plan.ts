import { nth } from "../checked.ts";
import { startsOn } from "../site-file/starts.ts";
import { isDue, isHeld } from "../calendar/due.ts";
import { type EpochS, instantOf, isSkippedWallTime, localIso } from "../dates/wall-time.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { lateStartBoundS, lowerBoundS, mustPass } from "./lower-bound.ts";
import type { CapacityCalendar } from "./capacity.ts";
import type { FlowAssignment } from "../network/flow-assignment.ts";
import { Night } from "./night.ts";
import type { RunRecord } from "./run-record.ts";
import { warningWords } from "./night-words.ts";
import { duePrograms, siteHold } from "./queue.ts";

export type PlanRun = {
  stationId: string;
  programId: string;
  start: string;
  end: string;
  cycle: number;
  flowLpm: number | null;
  /** What it waited for just before it opened. */
  waited: { code: string; elementId?: string; seconds: number } | null;
  ended: RunRecord["ended"];
};
export type PlanPeak = { id: string; lpm: number; ceilingLpm: number | null; at: string };
export type PlanWarning = { code: string; subjectId?: string; at?: string; message: string };
export type Plan = {
  runs: PlanRun[];
  finish: string | null;
  makespanS: number;
  lowerBoundS: number;
  ratio: number | null;
  /** The bound that knows when each program starts; never under `lowerBoundS`. */
  lateStartBoundS: number;
  shortfalls: { stationId: string; programId: string; minutes: number }[];
  peaks: PlanPeak[];
  warnings: PlanWarning[];
};

/** Plays one night to its end. All starts of the local date; no faults, no alarms. */
export function playNight(w: Waterworks, date: string): Night {
  const night = new Night(w, date);
  warnBefore(night, w.site, date);
  let t: EpochS | null = night.starts[0]?.at ?? null;
  while (t !== null) {
    night.step(t);
    t = night.nextEventAt(t);
  }
  return night;
}

/** What is known of a night before it begins: who is off, and starts that a clock change skips or doubles. */
function warnBefore(night: Night, site: SiteFile, date: string): void {
  const hold = siteHold(site, date);
  if (hold) night.warn("held", site.site.id);
  for (const c of site.controllers)
    if (c.off && site.programs.some((p) => p.controllerId === c.id)) night.warn("controllerOff", c.id);
  if (hold) return;
  for (const p of site.programs)
    if (p.enabled !== false && isHeld(p, date) && isDue({ ...p, holdUntil: undefined }, date)) night.warn("held", p.id);
  const due = duePrograms(site, date).map(({ program }) => program);
  const { timeZone } = site.site;
  for (const p of due)
    for (const hhmm of startsOn(p)) if (isSkippedWallTime(timeZone, date, hhmm)) night.warn("timeSkipped", p.id);
  for (const p of due) {
    const instants = startsOn(p).map((hhmm) => instantOf(timeZone, date, hhmm));
    if (new Set(instants).size < instants.length) night.warn("startTwice", p.id);
  }
}

/** The plan of a local date as the command line prints it (handbook#6-dispatch, site-file#commands). */
export function plan(site: SiteFile, date: string): Plan {
  const w = waterworks(site);
  const night = playNight(w, date);
  return planOf(w, night);
}

export const planOf = (w: Waterworks, night: Night): Plan => playedPlan(w, night).plan;

/** The plan of a night that has been played, and the flows it was made from. */
export function playedPlan(w: Waterworks, night: Night): { plan: Plan; moments: FlowMoment[] } {
  const { site } = w;
  const iso = (at: EpochS): string => localIso(site.site.timeZone, at);
  const runs = [...night.runs].sort((a, b) => a.start - b.start || a.end - b.end);
  const finish = runs.length > 0 ? Math.max(...runs.map((r) => r.end)) : null;
  const first = night.starts[0]?.at ?? null;
  const makespanS = finish !== null && first !== null ? finish - first : 0;
  const passes = mustPass(w, night.capacity);
  const bound = lowerBoundS(w, night.capacity, runs, passes);
  const moments = flowMoments(w, night, runs);
  const plan: Plan = {
    runs: runs.map((r) => ({
      stationId: nth(site.stations, r.station).id,
      programId: nth(site.programs, r.program).id,
      start: iso(r.start),
      end: iso(r.end),
      cycle: r.cycle,
      flowLpm: r.flowLpm,
      waited: r.waited,
      ended: r.ended,
    })),
    finish: finish === null ? null : iso(finish),
    makespanS,
    lowerBoundS: bound,
    ratio: bound > 0 ? makespanS / bound : null,
    lateStartBoundS: lateStartBoundS(
      w,
      night.capacity,
      night.starts[0]?.at,
      runs,
      (r) => night.firstOpen(r.program, r.entry.start.at),
      passes,
      bound,
    ),
    shortfalls: shortfalls(site, night),
    peaks: peaks(w, moments).map((p) => ({ ...p, at: iso(p.at) })),
    warnings: night.warnings.map((warning) => ({
      code: warning.code,
      ...(warning.subjectId === undefined ? {} : { subjectId: warning.subjectId }),
      ...(warning.at === undefined ? {} : { at: iso(warning.at) }),
      message: warningWords(site, warning),
    })),
  };
  return { plan, moments };
}

function shortfalls(site: SiteFile, night: Night): Plan["shortfalls"] {
  const seconds = new Map<string, { stationId: string; programId: string; s: number }>();
  for (const start of night.starts)
    for (const e of start.entries) {
      if (e.shortS <= 0) continue;
      const stationId = nth(site.stations, e.station).id;
      const programId = nth(site.programs, e.program).id;
      const key = JSON.stringify([stationId, programId]);
      const known = seconds.get(key) ?? { stationId, programId, s: 0 };
      known.s += e.shortS;
      seconds.set(key, known);
    }
  return [...seconds.values()].map(({ stationId, programId, s }) => ({ stationId, programId, minutes: s / 60 }));
}

export type FlowMoment = { at: EpochS; source: number[]; poc: number[]; mainline: number[] };

/** Flow through every element at every moment at which the running set changes; sources drawn on by priority. */
export function flowMoments(w: Waterworks, { capacity }: Night, runs: RunRecord[]): FlowMoment[] {
  const { sources, pocs, mainlines } = w.site;
  const moments = [...new Set(runs.flatMap((r) => [r.start, r.end]))].sort((a, b) => a - b);
  const inOrder = [...runs].sort((a, b) => a.start - b.start);
  const groupOf = (r: RunRecord): number => nth(capacity.groupOfController, nth(w.stationController, r.station));
  const assignmentAt = assignments(capacity);
  let running: RunRecord[] = [];
  let next = 0;
  return moments.map((at) => {
    running = running.filter((r) => r.end > at);
    for (; next < inOrder.length && nth(inOrder, next).start <= at; next++) running.push(nth(inOrder, next));
    const total: FlowMoment = {
      at,
      source: sources.map(() => 0),
      poc: pocs.map(() => 0),
      mainline: mainlines.map(() => 0),
    };
    for (let g = 0; g < capacity.groupCount; g++) {
      const mine = running.filter((r) => groupOf(r) === g && (r.flowLpm ?? 0) > 0);
      if (mine.length === 0) continue;
      const demand = mainlines.map(() => 0);
      for (const r of mine) {
        const m = nth(w.stationMainline, r.station);
        demand[m] = nth(demand, m) + (r.flowLpm ?? 0);
      }
      const assignment = assignmentAt(g, at);
      assignment.assign(demand);
      assignment.addFlows(total);
    }
    return total;
  });
}

/** Assignments of each group, made anew where what is open to it changes. */
function assignments(capacity: CapacityCalendar): (group: number, at: EpochS) => FlowAssignment {
  const held: ({ assignment: FlowAssignment; until: EpochS } | undefined)[] = [];
  return (group, at) => {
    const known = held[group];
    if (known && at < known.until) return known.assignment;
    const assignment = capacity.assignment(group, at);
    held[group] = { assignment, until: capacity.nextChange(at) ?? Number.POSITIVE_INFINITY };
    return assignment;
  };
}

function peaks(
  w: Waterworks,
  moments: FlowMoment[],
): { id: string; lpm: number; ceilingLpm: number | null; at: EpochS }[] {
  const lists = { source: w.site.sources, poc: w.site.pocs, mainline: w.site.mainlines };
  return (["source", "poc", "mainline"] as const).flatMap((kind) =>
    lists[kind].flatMap((element, i) => {
      let lpm = 0;
      let at = 0;
      for (const moment of moments) {
        const flow = nth(moment[kind], i);
        if (flow > lpm + 1e-6) {
          lpm = flow;
          at = moment.at;
        }
      }
      return lpm > 0
        ? [{ id: element.id, lpm, ceilingLpm: w.ceilingById.get(element.id)?.ceilingLpm ?? null, at }]
        : [];
    }),
  );
}
