import { inputSignals } from "../calendar/input-signal.ts";
import { openIntervals } from "../calendar/windows.ts";
import { addDays } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRunsAlone } from "../dispatch/never-runs.ts";
import { minimumsCalled, minimumsOf, NeverReached } from "./fast-pumps.ts";
import { type Entry, type ProgramStart, programStarts } from "../dispatch/queue.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { bindingCuts } from "./binding-cuts.ts";
import type { NightFacts, Tuning, Work } from "./fast-facts.ts";
import { FastPlay } from "./fast-play.ts";

/** Smaller is better, the first that differs decides: seconds short, seconds from the first start to the last close, starts of pumps, unevenness of flow. */
export type NightScore = readonly [shortS: number, makespanS: number, pumpStarts: number, roughness: number];

/** Above this many mainlines their cuts are too many to list. */
const MOST_MAINLINES = 10;
const MOST_CHANGES = 16;
const NO_CUTS = new Int32Array();
const TOLERANCE = 1e-6;
const DAY_S = 86_400;
const sum = (values: number[]): number => values.reduce((a, b) => a + b, 0);

/**
 * The dispatcher's night, the same rules on plain arrays, some fifty times faster, for a search that plays thousands of them. Whether a set may run together is told by the network's cuts, worked out
 * once for each dispatch group and each time at which ceilings change: demand fits exactly when, for every group of mainlines, it is no more than what can reach them together (max-flow min-cut).
 */
export class FastNight {
  private readonly w: Waterworks;
  private readonly facts: NightFacts;
  /** Of the night scored last: the mainline that closed last, and how late its litres came on the whole (s after the first start, weighted). */
  lastMain = 0;
  meanEndS = 0;
  /** Of the night scored last: how many stations of each program really ran at once. */
  usedAtOnce: Int32Array;

  private readonly never: NeverReached;

  private constructor(w: Waterworks, facts: NightFacts, never: NeverReached) {
    this.w = w;
    this.facts = facts;
    this.never = never;
    this.usedAtOnce = new Int32Array(w.site.programs.length);
  }

  /** Null when the night has something that only the full dispatcher plays. */
  static of(w: Waterworks, date: string): FastNight | null {
    const capacity = new CapacityCalendar(w, date);
    const starts = programStarts(w, date);
    const first = starts[0]?.at;
    if (first === undefined || !isPlain(w, capacity, starts, first)) return null;
    const { work, shortS } = workOf(w, capacity, starts);
    const instants = changesOf(capacity, first);
    const facts = { ...factsOf(w, date, starts, work), ...cutFacts(w, capacity, work, instants) };
    const minimums = minimumsOf(w, capacity, instants);
    return new FastNight(w, { ...facts, minimums, shortS, first }, new NeverReached(w, capacity, starts, work));
  }

  /** The tuning that the file has. */
  asFiled(): Tuning {
    return this.w.site.programs.map((p, i) => ({
      order: (this.facts.work[i] ?? []).map((_, n) => n),
      priority: p.priority ?? 1,
      atOnce: p.maxStationsAtOnce ?? 1,
    }));
  }

  private at(program: number, place: number): Work {
    return (this.facts.work[program] as Work[])[place] as Work;
  }

  /** Station of a place in a program's entries. */
  stationOf(program: number, place: number): number {
    return this.at(program, place).station;
  }

  mainOf(program: number, place: number): number {
    return this.at(program, place).main;
  }

  flowOf(program: number, place: number): number {
    return this.at(program, place).flow;
  }

  /** Two entries of one program that no night can tell apart, their stations being in no other: exchanging them changes nothing. */
  alike(program: number, a: number, b: number): boolean {
    const [x, y] = [this.at(program, a), this.at(program, b)];
    const once = (s: number): boolean => this.facts.work.flat().filter((w) => w.station === s).length === 1;
    return (
      x.main === y.main &&
      x.controller === y.controller &&
      x.flow === y.flow &&
      x.unknown === y.unknown &&
      x.soakS === y.soakS &&
      x.cycles.join() === y.cycles.join() &&
      once(x.station) &&
      once(y.station)
    );
  }

  secondsOf(program: number, place: number): number {
    return this.at(program, place).cycles.reduce((a, b) => a + b, 0);
  }

  /**
   * Plays the night under a tuning. With `beat`, it is given up as soon as it must end later than that with no fewer seconds short: its end is then infinite.
   */
  score(tuning: Tuning, beat?: NightScore): NightScore {
    const { first, minimums } = this.facts;
    const never = minimums ? this.never.under(tuning) : undefined;
    const play = new FastPlay(this.facts, tuning, beat, never);
    const whole = play.run();
    this.usedAtOnce = play.usedAtOnce;
    this.lastMain = play.lastMain;
    this.meanEndS = play.meanEndS;
    return [play.shortS, whole ? play.lastEnd - first : Number.POSITIVE_INFINITY, play.pumpStarts, play.roughness];
  }
}

/** Not too many mainlines or changes of what they are given; no station twice in a start; and every start of a program waters the same. */
function isPlain(w: Waterworks, capacity: CapacityCalendar, starts: ProgramStart[], first: number): boolean {
  const same = new Map<number, string>();
  return (
    w.site.mainlines.length <= MOST_MAINLINES &&
    changesOf(capacity, first).length <= MOST_CHANGES &&
    starts.every((s) => {
      const watered = JSON.stringify(s.entries.map((e) => [e.station, e.cycles]));
      const before = same.get(s.program) ?? watered;
      same.set(s.program, before);
      return watered === before && new Set(s.entries.map((e) => e.station)).size === s.entries.length;
    })
  );
}

/** The first start, and every instant of the night and the day after it at which source hours, hand watering or hours of a controller change what may flow. */
function changesOf(capacity: CapacityCalendar, first: number): number[] {
  const found = [first];
  for (let at = capacity.nextChange(first); at !== null && at < first + 2 * DAY_S; at = capacity.nextChange(at))
    found.push(at);
  return found;
}

function oneWork(w: Waterworks, capacity: CapacityCalendar, e: Entry, times: number): Work {
  const { soakS } = e;
  const main = w.stationMainline[e.station] as number;
  const controller = w.stationController[e.station] as number;
  return {
    station: e.station,
    main,
    controller,
    group: capacity.groupOfController[controller] as number,
    sources: (w.pocsAbove[main] ?? []).flatMap((p) => w.pocSources[p] ?? []),
    flow: e.flowLpm ?? 0,
    unknown: e.flowLpm === null,
    minimums: minimumsCalled(w, e.station),
    ignores: w.site.stations[e.station]?.ignoresInputs ?? [],
    times,
    entry: e,
    system: w.systemOfMainline[main] as number,
    cuts: NO_CUTS,
    cycles: e.cycles,
    soakS,
    afterS: e.cycles.map((_, c) => sum(e.cycles.slice(c + 1).map((length) => soakS + length))),
  };
}

/** What each program has to water, and the seconds that can never be. */
function workOf(w: Waterworks, capacity: CapacityCalendar, starts: ProgramStart[]): { work: Work[][]; shortS: number } {
  const { site } = w;
  const locked = new Set(site.stations.flatMap((s, i) => (s.lockedOut ? [i] : [])));
  const work: Work[][] = site.programs.map(() => []);
  let shortS = 0;
  for (const [n, start] of starts.entries()) {
    const ofProgram = starts.filter((s) => s.program === start.program);
    for (const e of start.entries)
      if (neverRunsAlone(w, capacity, e, locked)) shortS += sum(e.cycles);
      else if (ofProgram[0] === starts[n]) work[start.program]?.push(oneWork(w, capacity, e, ofProgram.length));
  }
  return { work, shortS };
}

type CutFacts = "periods" | "cutMost" | "cutWork" | "groups";

function factsOf(
  w: Waterworks,
  date: string,
  starts: ProgramStart[],
  work: Work[][],
): Omit<NightFacts, CutFacts | "minimums" | "shortS" | "first"> {
  const { site } = w;
  const pumped = site.pocs.flatMap((p, i) => (p.devices.some((d) => d.kind === "pump") ? [i] : []));
  return {
    work,
    starts: starts.map(({ program, at, deadline }) => ({ program, at, deadline })),
    pauses: site.programs.map((p) => inputSignals(site, p).filter((s) => s.does === "pause")),
    open: site.programs.map((p) =>
      p.windows || p.closedHours ? openIntervals(site.site.timeZone, p, addDays(date, -1), 4) : null,
    ),
    delay: site.programs.map((p) => p.delayS ?? 0),
    strict: site.programs.map((p) => p.dispatch === "strict"),
    limit: site.controllers.map((c) => c.maxStationsAtOnce ?? Number.POSITIVE_INFINITY),
    siteLimit: site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY,
    stations: site.stations.length,
    systems: w.systemCount,
    pumps: pumped.length,
    pumpOfMain: Int32Array.from(site.mainlines, (_, m) => pumped.findIndex((p) => (w.pocsAbove[m] ?? []).includes(p))),
  };
}

/** The cuts of every dispatch group, one after the other; each entry is told which of them it is in. */
function cutFacts(
  w: Waterworks,
  capacity: CapacityCalendar,
  work: Work[][],
  instants: readonly number[],
): Pick<NightFacts, CutFacts> {
  const behind = (mask: number, main: number): boolean => ((mask >> main) & 1) === 1;
  const ofGroups = Array.from({ length: capacity.groupCount }, (_, g) => bindingCuts(w, capacity, g, instants));
  let before = 0;
  for (const [group, { masks }] of ofGroups.entries()) {
    for (const i of work.flat())
      if (i.group === group)
        i.cuts = Int32Array.from(masks.flatMap((mask, n) => (behind(mask, i.main) ? [before + n] : [])));
    before += masks.length;
  }
  const periods = instants.map((from, k) => ({
    from,
    cap: Float64Array.from(ofGroups.flatMap((c) => [...(c.periods[k]?.cap ?? [])])).map((c) => c + TOLERANCE),
  }));
  const cutWork = new Float64Array(before);
  for (const i of work.flat())
    for (const n of i.cuts) cutWork[n] = (cutWork[n] as number) + i.flow * i.times * sum(i.cycles);
  return {
    periods,
    cutMost: cutWork.map((_, n) => Math.max(...periods.map((p) => p.cap[n] as number))),
    cutWork,
    groups: capacity.groupCount,
  };
}
