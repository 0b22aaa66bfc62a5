import { inputSignals } from "../calendar/input-signal.ts";
import { openIntervals } from "../calendar/windows.ts";
import { addDays } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import { type Entry, type ProgramStart, programStarts } from "../dispatch/queue.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Program } from "../site-file/schema.ts";
import { bindingCuts, type Cut } from "./binding-cuts.ts";
import { FastPlay, type NightFacts, type Tuning, type Work } from "./fast-play.ts";

/** Smaller is better, the first that differs decides: seconds short, seconds from the first start to the last close, starts of pumps, unevenness of flow. */
export type NightScore = readonly [shortS: number, makespanS: number, pumpStarts: number, roughness: number];

/** Above this many mainlines their cuts are too many to list. */
const MOST_MAINLINES = 10;
const TOLERANCE = 1e-6;
const DAY_S = 86_400;
const sum = (values: number[]): number => values.reduce((a, b) => a + b, 0);

/**
 * The dispatcher's night, for nights without anything that changes the ceilings or needs the pumps' minimum: the same rules on plain arrays, some
 * fifty times faster, for a search that plays thousands of them. Whether a set may run together is told by the network's cuts, worked out
 * once: demand fits exactly when, for every group of mainlines, it is no more than what can reach them together (max-flow min-cut).
 */
export class FastNight {
  private readonly w: Waterworks;
  private readonly facts: NightFacts;
  /** Of the night scored last: the mainline that closed last, and how late its litres came on the whole (s after the first start, weighted). */
  lastMain = 0;
  meanEndS = 0;
  /** Of the night scored last: how many stations of each program really ran at once. */
  usedAtOnce: Int32Array;

  private constructor(w: Waterworks, facts: NightFacts) {
    this.w = w;
    this.facts = facts;
    this.usedAtOnce = new Int32Array(w.site.programs.length);
  }

  /** Null when the night has something that only the full dispatcher plays. */
  static of(w: Waterworks, date: string): FastNight | null {
    const capacity = new CapacityCalendar(w, date);
    const starts = programStarts(w, date);
    const first = starts[0]?.at;
    if (first === undefined || !isPlain(w, capacity, starts, first)) return null;
    const { work, shortS } = workOf(w, capacity, starts);
    return new FastNight(w, {
      ...factsOf(w, date, starts, work),
      ...cutFacts(w, bindingCuts(w, capacity, first), work),
      shortS,
      first,
    });
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
    const { shortS, first } = this.facts;
    const latest = beat && beat[0] <= shortS ? first + beat[1] : Number.POSITIVE_INFINITY;
    const play = new FastPlay(this.facts, tuning, latest);
    const whole = play.run();
    this.usedAtOnce = play.usedAtOnce;
    this.lastMain = play.lastMain;
    this.meanEndS = play.meanEndS;
    return [play.shortS, whole ? play.lastEnd - first : Number.POSITIVE_INFINITY, play.pumpStarts, play.roughness];
  }
}

/** One group of controllers, ceilings that stay, no pump minimum, each program once and no station twice in it, no input that pauses, and every flow known. */
function isPlain(w: Waterworks, capacity: CapacityCalendar, starts: ProgramStart[], first: number): boolean {
  const { site } = w;
  const change = capacity.nextChange(first);
  return (
    capacity.groupCount === 1 &&
    site.mainlines.length <= MOST_MAINLINES &&
    (change === null || change >= first + 2 * DAY_S) &&
    !site.pocs.some((p) => p.devices.some((d) => d.kind === "pump" && d.minFlowLpm !== undefined)) &&
    new Set(starts.map((s) => s.program)).size === starts.length &&
    !starts.some((s) => inputSignals(site, site.programs[s.program] as Program).length > 0) &&
    starts.every(
      (s) =>
        s.entries.every((e) => e.flowLpm !== null) &&
        new Set(s.entries.map((e) => e.station)).size === s.entries.length,
    )
  );
}

function oneWork(w: Waterworks, e: Entry): Work {
  const { soakS } = e;
  return {
    station: e.station,
    main: w.stationMainline[e.station] as number,
    controller: w.stationController[e.station] as number,
    flow: e.flowLpm ?? 0,
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
  for (const start of starts)
    for (const e of start.entries)
      if (neverRuns(w, capacity, starts, e, locked)) shortS += sum(e.cycles);
      else work[start.program]?.push(oneWork(w, e));
  return { work, shortS };
}

type CutFacts = "cutsOfMain" | "cutCap" | "cutWork";

function factsOf(
  w: Waterworks,
  date: string,
  starts: ProgramStart[],
  work: Work[][],
): Omit<NightFacts, CutFacts | "shortS" | "first"> {
  const { site } = w;
  const startOf = (program: number): ProgramStart | undefined => starts.find((s) => s.program === program);
  const pumped = site.pocs.flatMap((p, i) => (p.devices.some((d) => d.kind === "pump") ? [i] : []));
  return {
    work,
    startAt: site.programs.map((_, p) => startOf(p)?.at ?? Number.POSITIVE_INFINITY),
    overAt: site.programs.map((_, p) => startOf(p)?.deadline ?? Number.POSITIVE_INFINITY),
    open: site.programs.map((p) =>
      p.windows || p.closedHours ? openIntervals(site.site.timeZone, p, addDays(date, -1), 4) : null,
    ),
    delay: site.programs.map((p) => p.delayS ?? 0),
    strict: site.programs.map((p) => p.dispatch === "strict"),
    busy: site.programs.map((_, p) => p).filter((p) => (work[p]?.length ?? 0) > 0),
    limit: site.controllers.map((c) => c.maxStationsAtOnce ?? Number.POSITIVE_INFINITY),
    siteLimit: site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY,
    stations: site.stations.length,
    pumps: pumped.length,
    pumpOfMain: Int32Array.from(site.mainlines, (_, m) => pumped.findIndex((p) => (w.pocsAbove[m] ?? []).includes(p))),
  };
}

function cutFacts(w: Waterworks, cuts: Cut[], work: Work[][]): Pick<NightFacts, CutFacts> {
  const behind = (mask: number, main: number): boolean => ((mask >> main) & 1) === 1;
  return {
    cutCap: Float64Array.from(cuts, (c) => c.cap + TOLERANCE),
    cutWork: Float64Array.from(cuts, (c) =>
      work.flat().reduce((total, i) => total + (behind(c.mask, i.main) ? i.flow * sum(i.cycles) : 0), 0),
    ),
    cutsOfMain: w.site.mainlines.map((_, m) =>
      Int32Array.from(cuts.flatMap((c, cut) => (behind(c.mask, m) ? [cut] : []))),
    ),
  };
}
