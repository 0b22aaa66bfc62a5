import { inputSignals } from "../calendar/input-signal.ts";
import { addDays } from "../dates/wall-time.ts";
import { type Interval, isInside, nextChange, openIntervals } from "../calendar/windows.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import { programStarts } from "../dispatch/queue.ts";
import { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Program } from "../site-file/schema.ts";

/** What a search may change of each program, by place in the file. `order` holds places in the program's list of entries. */
export type Tuning = { order: number[]; priority: number; atOnce: number }[];
/** Smaller is better, the first that differs decides: seconds short, seconds from the first start to the last close, starts of pumps, unevenness of flow. */
export type NightScore = readonly [shortS: number, makespanS: number, pumpStarts: number, roughness: number];

/** Above this many mainlines their cuts are too many to list. */
const MOST_MAINLINES = 10;
const TOLERANCE = 1e-6;
const DAY_S = 86_400;
const NONE = new Set<number>();

type Work = {
  station: number;
  main: number;
  controller: number;
  flow: number;
  cycles: number[];
  soakS: number /** Seconds that its later cycles and soaks still need after each cycle. */;
  afterS: number[];
};

/**
 * The dispatcher's night, for nights without anything that changes the ceilings or needs the pumps' minimum: the same rules on plain arrays, some
 * fifty times faster, for a search that plays thousands of them. Whether a set may run together is told by the network's cuts, worked out
 * once: demand fits exactly when, for every group of mainlines, it is no more than what can reach them together (max-flow min-cut).
 */
export class FastNight {
  private readonly work: Work[][];
  private readonly startAt: number[];
  /** What is left of a program then is cut. */
  private readonly overAt: number[];
  private readonly open: (Interval[] | null)[];
  private readonly cutsOfMain: Int32Array[];
  private readonly cutCap: Float64Array;
  /** L/min × s that must pass each cut in the whole night. */
  private readonly cutWork: Float64Array;
  private readonly shortFromTheStart: number;
  private readonly first: number;
  private readonly pumpOfMain: Int32Array;
  private readonly pumps: number;
  private readonly rules: {
    limit: number[];
    siteLimit: number;
    delay: number[];
    strict: boolean[];
    anyStrict: boolean;
  };
  /** Programs with something to run. */
  private readonly busy: number[];
  private readonly w: Waterworks;
  /** Of the night scored last: the mainline that closed last, and how late its litres came on the whole (s after the first start, weighted). */
  lastMain = 0;
  meanEndS = 0;
  /** Of the night scored last: how many stations of each program really ran at once. */
  readonly usedAtOnce: Int32Array;

  private constructor(
    w: Waterworks,
    work: Work[][],
    startAt: number[],
    overAt: number[],
    open: (Interval[] | null)[],
    cuts: { mask: number; cap: number }[],
    shortS: number,
    first: number,
  ) {
    this.w = w;
    this.usedAtOnce = new Int32Array(w.site.programs.length);
    this.work = work;
    this.startAt = startAt;
    this.overAt = overAt;
    this.open = open;
    this.shortFromTheStart = shortS;
    this.first = first;
    this.rules = {
      limit: w.site.controllers.map((c) => c.maxStationsAtOnce ?? Number.POSITIVE_INFINITY),
      siteLimit: w.site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY,
      delay: w.site.programs.map((p) => p.delayS ?? 0),
      strict: w.site.programs.map((p) => p.dispatch === "strict"),
      anyStrict: w.site.programs.some((p) => p.dispatch === "strict"),
    };
    this.busy = w.site.programs.map((_, p) => p).filter((p) => (work[p]?.length ?? 0) > 0);
    this.cutCap = Float64Array.from(cuts, (c) => c.cap + TOLERANCE);
    this.cutWork = Float64Array.from(cuts, (c) =>
      work
        .flat()
        .reduce((sum, i) => sum + ((c.mask >> i.main) & 1 ? i.flow * i.cycles.reduce((a, b) => a + b, 0) : 0), 0),
    );
    this.cutsOfMain = w.site.mainlines.map((_, m) =>
      Int32Array.from(cuts.flatMap((c, cut) => ((c.mask >> m) & 1 ? [cut] : []))),
    );
    const pumped = w.site.pocs.flatMap((p, i) => (p.devices.some((d) => d.kind === "pump") ? [i] : []));
    this.pumps = pumped.length;
    this.pumpOfMain = Int32Array.from(w.site.mainlines, (_, m) =>
      pumped.findIndex((p) => (w.pocsAbove[m] ?? []).includes(p)),
    );
  }

  /** Null when the night has something that only the full dispatcher plays. */
  static of(w: Waterworks, date: string): FastNight | null {
    const { site } = w;
    const capacity = new CapacityCalendar(w, date);
    const starts = programStarts(w, date);
    const first = starts[0]?.at;
    if (first === undefined || capacity.groupCount > 1 || site.mainlines.length > MOST_MAINLINES) return null;
    const change = capacity.nextChange(first);
    if (change !== null && change < first + 2 * DAY_S) return null;
    if (site.pocs.some((p) => p.devices.some((d) => d.kind === "pump" && d.minFlowLpm !== undefined))) return null;
    if (new Set(starts.map((s) => s.program)).size !== starts.length) return null;
    if (starts.some((s) => inputSignals(site, site.programs[s.program] as Program).length > 0)) return null;
    const locked = new Set(site.stations.flatMap((s, i) => (s.lockedOut ? [i] : [])));
    const work: Work[][] = site.programs.map(() => []);
    let shortS = 0;
    for (const start of starts)
      for (const e of start.entries) {
        if (e.flowLpm === null) return null;
        if (neverRuns(w, capacity, starts, e, locked)) {
          shortS += e.cycles.reduce((a, b) => a + b, 0);
          continue;
        }
        const soakS = Math.round((site.stations[e.station]?.soakMin ?? 0) * 60);
        work[start.program]?.push({
          station: e.station,
          main: w.stationMainline[e.station] as number,
          controller: w.stationController[e.station] as number,
          flow: e.flowLpm,
          cycles: e.cycles,
          soakS,
          afterS: e.cycles.map((_, c) => e.cycles.slice(c + 1).reduce((sum, length) => sum + soakS + length, 0)),
        });
      }
    const startAt = site.programs.map((_, p) => starts.find((s) => s.program === p)?.at ?? Number.POSITIVE_INFINITY);
    const overAt = site.programs.map(
      (_, p) => starts.find((s) => s.program === p)?.deadline ?? Number.POSITIVE_INFINITY,
    );
    const open = site.programs.map((p) =>
      p.windows || p.closedHours ? openIntervals(site.site.timeZone, p, addDays(date, -1), 4) : null,
    );
    return new FastNight(w, work, startAt, overAt, open, bindingCuts(w, capacity, first), shortS, first);
  }

  /** The tuning that the file has. */
  asFiled(): Tuning {
    return this.w.site.programs.map((p, i) => ({
      order: (this.work[i] ?? []).map((_, n) => n),
      priority: p.priority ?? 1,
      atOnce: p.maxStationsAtOnce ?? 1,
    }));
  }

  private at(program: number, place: number): Work {
    return (this.work[program] as Work[])[place] as Work;
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
    const once = (s: number): boolean => this.work.flat().filter((w) => w.station === s).length === 1;
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
    const latest = beat && beat[0] <= this.shortFromTheStart ? this.first + beat[1] : Number.POSITIVE_INFINITY;
    const { site } = this.w;
    type Item = {
      w: Work;
      program: number;
      cycle: number;
      left: number;
      readyAt: number;
      openedAt: number;
      endAt: number;
      state: 0 | 1 | 2;
    };
    const programs = this.busy;
    const ranked = [...programs].sort(
      (a, b) =>
        (tuning[a]?.priority ?? 1) - (tuning[b]?.priority ?? 1) ||
        (this.startAt[a] as number) - (this.startAt[b] as number) ||
        a - b,
    );
    let queue: Item[] = [];
    for (const p of ranked)
      for (const place of (tuning[p] as Tuning[number]).order) {
        const w = (this.work[p] as Work[])[place] as Work;
        queue.push({
          w,
          program: p,
          cycle: 0,
          left: w.cycles[0] as number,
          readyAt: this.startAt[p] as number,
          openedAt: 0,
          endAt: 0,
          state: 0,
        });
      }
    const used = new Float64Array(this.cutCap.length);
    const inProgram = new Int32Array(site.programs.length);
    const onController = new Int32Array(site.controllers.length);
    const runningOf = new Uint8Array(site.stations.length);
    const lastClose = new Float64Array(site.programs.length).fill(Number.NEGATIVE_INFINITY);
    const { limit, siteLimit, delay, strict } = this.rules;
    const behindPump = new Int32Array(this.pumps);
    this.usedAtOnce.fill(0);
    let running: Item[] = [];
    let onSite = 0;
    let waiting = queue.length;
    let lastEnd = this.first;
    let pumpStarts = 0;
    let roughness = 0;
    let flow = 0;
    let shortS = this.shortFromTheStart;
    let weighted = 0;
    let weight = 0;
    const load = (main: number, by: number): void => {
      const cuts = this.cutsOfMain[main] as Int32Array;
      for (let n = 0; n < cuts.length; n++) used[cuts[n] as number] = (used[cuts[n] as number] as number) + by;
    };
    const hasRoom = (main: number, lpm: number): boolean => {
      const cuts = this.cutsOfMain[main] as Int32Array;
      for (let n = 0; n < cuts.length; n++)
        if ((used[cuts[n] as number] as number) + lpm > (this.cutCap[cuts[n] as number] as number)) return false;
      return true;
    };
    const close = (i: Item, t: number): void => {
      load(i.w.main, -i.w.flow);
      inProgram[i.program] = (inProgram[i.program] as number) - 1;
      onController[i.w.controller] = (onController[i.w.controller] as number) - 1;
      runningOf[i.w.station] = 0;
      onSite--;
      flow -= i.w.flow;
      lastClose[i.program] = t;
      lastEnd = t;
      this.lastMain = i.w.main;
      const litres = i.w.flow * (t - i.openedAt);
      weighted += litres * (t - this.first);
      weight += litres;
      const pump = this.pumpOfMain[i.w.main] as number;
      if (pump >= 0) behindPump[pump] = (behindPump[pump] as number) - 1;
    };
    const next = (i: Item, t: number): void => {
      i.cycle++;
      if (i.cycle >= i.w.cycles.length) {
        i.state = 2;
        waiting--;
        return;
      }
      i.left = i.w.cycles[i.cycle] as number;
      i.readyAt = t + i.w.soakS;
      i.state = 0;
    };
    let overdue = Number.POSITIVE_INFINITY;
    for (const p of programs) overdue = Math.min(overdue, this.overAt[p] as number);
    const toPass = this.cutWork.slice();
    let before = this.first;
    for (let t = this.first; waiting > 0; ) {
      if (latest < Number.POSITIVE_INFINITY) {
        // What is still to pass a cut takes at least so long at its full capacity.
        for (let n = 0; n < toPass.length; n++) {
          const left = (toPass[n] as number) - (used[n] as number) * (t - before);
          toPass[n] = left;
          if (t + left / (this.cutCap[n] as number) > latest + 1e-6)
            return [shortS, Number.POSITIVE_INFINITY, pumpStarts, roughness];
        }
        before = t;
      }
      const flowBefore = flow;
      const pumpsBefore = this.pumps > 0 ? Array.from(behindPump, (n) => n > 0) : null;
      const still: Item[] = [];
      for (const i of running) {
        if (i.endAt <= t) {
          close(i, t);
          next(i, t);
          continue;
        }
        const hours = this.open[i.program];
        if (hours && !isInside(hours, t)) {
          close(i, t);
          i.left = i.endAt - t;
          i.readyAt = t;
          i.state = 0;
          continue;
        }
        still.push(i);
      }
      running = still;
      if (t >= overdue)
        for (const i of queue)
          if (i.state !== 2 && t >= (this.overAt[i.program] as number)) {
            if (i.state === 1) {
              close(i, t);
              i.left = i.endAt - t;
              running = running.filter((r) => r !== i);
            }
            shortS += i.left + i.w.cycles.slice(i.cycle + 1).reduce((a, b) => a + b, 0);
            i.state = 2;
            waiting--;
          }
      if (waiting < queue.length) queue = queue.filter((i) => i.state !== 2);
      const strictEnded = this.rules.anyStrict ? new Set<number>() : NONE;
      for (const i of queue) {
        if (i.state !== 0 || t < (this.startAt[i.program] as number) || i.readyAt > t) continue;
        const p = i.program;
        if (strictEnded.size > 0 && strictEnded.has(p)) continue;
        const hours = this.open[p];
        const fits =
          (inProgram[p] as number) < (tuning[p] as Tuning[number]).atOnce &&
          hasRoom(i.w.main, i.w.flow) &&
          onSite < siteLimit &&
          (onController[i.w.controller] as number) < (limit[i.w.controller] as number) &&
          runningOf[i.w.station] === 0 &&
          t >= (lastClose[p] as number) + (delay[p] as number) &&
          !(hours && !isInside(hours, t));
        if (!fits) {
          if (strict[p]) strictEnded.add(p);
          continue;
        }
        load(i.w.main, i.w.flow);
        inProgram[p] = (inProgram[p] as number) + 1;
        if ((inProgram[p] as number) > (this.usedAtOnce[p] as number)) this.usedAtOnce[p] = inProgram[p] as number;
        onController[i.w.controller] = (onController[i.w.controller] as number) + 1;
        runningOf[i.w.station] = 1;
        onSite++;
        flow += i.w.flow;
        const pump = this.pumpOfMain[i.w.main] as number;
        if (pump >= 0) behindPump[pump] = (behindPump[pump] as number) + 1;
        i.state = 1;
        i.openedAt = t;
        i.endAt = t + i.left;
        if (i.endAt + (i.w.afterS[i.cycle] as number) > latest)
          return [shortS, Number.POSITIVE_INFINITY, pumpStarts, roughness];
        running.push(i);
      }
      if (pumpsBefore)
        for (let n = 0; n < this.pumps; n++) if (!pumpsBefore[n] && (behindPump[n] as number) > 0) pumpStarts++;
      roughness += Math.abs(flow - flowBefore);
      let after = Number.POSITIVE_INFINITY;
      for (const i of running) if (i.endAt < after) after = i.endAt;
      for (const i of queue)
        if (i.state === 0) {
          const at = Math.max(i.readyAt, this.startAt[i.program] as number);
          if (at > t && at < after) after = at;
        }
      for (const p of programs) {
        const delayed = (lastClose[p] as number) + (delay[p] as number);
        if (delayed > t && delayed < after) after = delayed;
        const hours = this.open[p];
        const turn = hours ? nextChange(hours, t) : null;
        if (turn !== null && turn < after) after = turn;
        const over = this.overAt[p] as number;
        if (over > t && over < after) after = over;
      }
      if (!Number.isFinite(after)) break;
      t = after;
    }
    this.meanEndS = weight > 0 ? weighted / weight : 0;
    return [shortS, lastEnd - this.first, pumpStarts, roughness];
  }
}

/** For every group of mainlines what can reach it together, without those that smaller groups imply. */
function bindingCuts(w: Waterworks, capacity: CapacityCalendar, at: number): { mask: number; cap: number }[] {
  const mains = w.site.mainlines.length;
  const full = capacity.capacities(0, at);
  const cap = new Float64Array(1 << mains);
  for (let mask = 1; mask < 1 << mains; mask++) {
    const flow = new FlowAssignment(w, full);
    flow.assign(w.site.mainlines.map((_, m) => ((mask >> m) & 1 ? 1e7 : 0)));
    cap[mask] = flow.flows().source.reduce((a, b) => a + b, 0);
  }
  const cuts: { mask: number; cap: number }[] = [];
  for (let mask = 1; mask < 1 << mains; mask++) {
    let implied = (cap[mask] as number) >= 9e6;
    // A larger group that can be given no more asks at least as much of this one.
    for (let m = 0; m < mains && !implied; m++)
      if (!((mask >> m) & 1) && (cap[mask | (1 << m)] as number) <= (cap[mask] as number) + 1e-9) implied = true;
    for (let part = (mask - 1) & mask; part > 0 && !implied; part = (part - 1) & mask)
      if ((cap[part] as number) + (cap[mask ^ part] as number) <= (cap[mask] as number) + 1e-9) implied = true;
    if (!implied) cuts.push({ mask, cap: cap[mask] as number });
  }
  return cuts;
}
