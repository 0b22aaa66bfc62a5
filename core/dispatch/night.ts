import { inputSignals } from "../calendar/input-signal.ts";
import { type EpochS, addDays } from "../dates/wall-time.ts";
import { type Interval, isInside, nextChange, openIntervals } from "../calendar/windows.ts";
import type { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { DeviceOf } from "../site-file/schema.ts";
import { CapacityCalendar } from "./capacity.ts";
import { type BlockCode, type Entry, leftSeconds, type ProgramStart, programStarts } from "./queue.ts";
import { neverRuns } from "./never-runs.ts";

export type RunRecord = {
  entry: Entry;
  station: number;
  program: number;
  start: EpochS;
  end: EpochS;
  /** From 1. */
  cycle: number;
  flowLpm: number | null;
  /** What it waited for just before it opened, and how long. */
  waited: { code: BlockCode; elementId?: string; seconds: number } | null;
  /** Why it closed. */
  ended: "complete" | "window" | "input" | "sourceHours" | "pumpMinimum" | "deadline" | "cut" | "limit";
};
export type NightWarning = { code: NightWarningCode; subjectId?: string; at?: EpochS; otherAt?: EpochS };
export type NightWarningCode =
  | "held"
  | "controllerOff"
  | "startsQueue"
  | "startCut"
  | "startTwice"
  | "noFlow"
  | "lockedOut"
  | "aboveCeiling"
  | "noSupply"
  | "pumpMinimum"
  | "timeSkipped"
  | "dayEnd";

const PUMP_UNDER_MINIMUM_S = 60;

/**
 * One night of one site, second by second, exactly as the handbook's section 6 dispatches it. `step(t)` does everything that
 * happens in second t; `nextEventAt(t)` tells when something can change next, so a plan jumps and a bench may walk.
 */
export class Night {
  readonly starts: ProgramStart[];
  readonly runs: RunRecord[] = [];
  readonly warnings: NightWarning[] = [];
  readonly capacity: CapacityCalendar;
  /** Systems taken out of dispatch: while a search runs, or for the rest of the night. */
  readonly suspendedSystems = new Set<number>();
  readonly lockedStations: Set<number>;
  running: Entry[] = [];
  private readonly queue: Entry[] = [];
  private readonly open: Interval[][];
  private readonly pauses: { inputId: string; intervals: Interval[] }[][];
  private readonly lastClose: number[];
  private assignments: FlowAssignment[] = [];
  private readonly pumps: { poc: number; minLpm: number; deadline: EpochS | null }[];
  private opened = 0;
  private readonly w: Waterworks;

  constructor(w: Waterworks, date: string) {
    this.w = w;
    const { site } = w;
    this.starts = programStarts(w, date);
    this.capacity = new CapacityCalendar(w, date);
    this.open = site.programs.map((p) => openIntervals(site.site.timeZone, p, addDays(date, -1), 4));
    this.pauses = site.programs.map((p) => inputSignals(site, p).filter((s) => s.does === "pause"));
    this.lastClose = site.programs.map(() => Number.NEGATIVE_INFINITY);
    this.lockedStations = new Set(site.stations.flatMap((s, i) => (s.lockedOut ? [i] : [])));
    this.pumps = site.pocs.flatMap((p, poc) =>
      p.devices
        .filter((d): d is DeviceOf<"pump"> => d.kind === "pump" && d.minFlowLpm !== undefined)
        .map((d) => ({ poc, minLpm: d.minFlowLpm as number, deadline: null })),
    );
  }

  /** Nothing runs, waits or is still to start. */
  get finished(): boolean {
    return this.running.length === 0 && this.starts.every((s) => s.state === "finished");
  }

  /** Next instant after `t` at which something can change; null when the night is over. */
  nextEventAt(t: EpochS): EpochS | null {
    if (this.finished) return null;
    let next = Number.POSITIVE_INFINITY;
    const consider = (at: EpochS | null): void => {
      if (at !== null && at > t && at < next) next = at;
    };
    for (const e of this.running) consider(e.openedAt + e.leftS);
    const programs = new Set<number>();
    for (const s of this.starts) {
      if (s.state === "pending") consider(s.at);
      if (s.state === "waiting" || s.state === "active") {
        consider(s.deadline);
        programs.add(s.program);
      }
    }
    for (const e of this.queue) if (e.state === "waiting") consider(e.readyAt);
    for (const p of programs) {
      consider(nextChange(this.open[p] as Interval[], t));
      for (const pause of this.pauses[p] ?? []) consider(nextChange(pause.intervals, t));
      consider((this.lastClose[p] as number) + (this.w.site.programs[p]?.delayS ?? 0));
    }
    for (const pump of this.pumps) consider(pump.deadline);
    consider(this.capacity.nextChange(t));
    return Number.isFinite(next) ? next : null;
  }

  /** Closes, then window ends, then cuts, then openings (site-file#order-in-one-second). */
  step(t: EpochS): void {
    // Source hours and reserves may have changed since the last second that mattered.
    this.assignments = [];
    for (const e of this.running.filter((e) => e.openedAt + e.leftS <= t)) this.complete(e, t);
    for (const e of this.running.filter((e) => !this.isOpen(e.program, t))) this.pause(e, t, "window");
    for (const e of this.running.filter((e) => this.pausedBy(e, t) !== null)) this.pause(e, t, "input");
    this.trimToCapacity(t);
    this.cutAtDeadline(t);
    this.beginStarts(t);
    this.pauseUnderPumpMinimum(t);
    this.openWhatFits(t);
    this.watchPumps(t);
  }

  isOpen(program: number, t: EpochS): boolean {
    return isInside(this.open[program] as Interval[], t);
  }

  /** The input that holds an entry back now; a station that ignores it is not held. */
  private pausedBy(e: Entry, t: EpochS): string | null {
    const ignored = this.w.site.stations[e.station]?.ignoresInputs;
    return (
      this.pauses[e.program]?.find((p) => isInside(p.intervals, t) && !ignored?.includes(p.inputId))?.inputId ?? null
    );
  }

  systemOf(station: number): number {
    return this.w.systemOfMainline[this.w.stationMainline[station] as number] as number;
  }

  // ---- closing -------------------------------------------------------------------------------------------------

  private record(e: Entry, t: EpochS, ended: RunRecord["ended"]): void {
    const blocked = e.blocked;
    if (t > e.openedAt)
      this.runs.push({
        entry: e,
        station: e.station,
        program: e.program,
        start: e.openedAt,
        end: t,
        cycle: e.cycle + 1,
        flowLpm: e.flowLpm,
        ended,
        waited: blocked
          ? {
              code: blocked.code,
              ...(blocked.elementId ? { elementId: blocked.elementId } : {}),
              seconds: e.openedAt - blocked.since,
            }
          : null,
      });
    e.deliveredS += t - e.openedAt;
    e.blocked = null;
    this.running = this.running.filter((r) => r !== e);
    this.lastClose[e.program] = t;
    this.assignments = [];
  }

  private complete(e: Entry, t: EpochS): void {
    this.record(e, t, "complete");
    this.nextCycle(e, t);
  }

  private nextCycle(e: Entry, t: EpochS): void {
    e.cycle++;
    if (e.cycle >= e.cycles.length) {
      this.finish(e);
      return;
    }
    e.leftS = e.cycles[e.cycle] as number;
    e.readyAt = t + Math.round((this.w.site.stations[e.station]?.soakMin ?? 0) * 60);
    e.state = "waiting";
  }

  private finish(e: Entry): void {
    e.state = "done";
    const at = this.queue.indexOf(e);
    if (at >= 0) this.queue.splice(at, 1);
    if (e.start.state === "active" && e.start.entries.every((x) => x.state === "done")) e.start.state = "finished";
  }

  /** Closes a running station before its time; what is left waits in the queue under the same cycle, without a soak. */
  pause(e: Entry, t: EpochS, why: RunRecord["ended"]): void {
    this.record(e, t, why);
    e.leftS -= t - e.openedAt;
    e.state = "waiting";
    e.readyAt = t;
    if (e.leftS <= 0) this.nextCycle(e, t);
  }

  /** Gives up what an entry still has to water: a shortfall. */
  abandon(e: Entry, t: EpochS, why: RunRecord["ended"]): void {
    if (e.state === "running") this.pause(e, t, why);
    e.shortS += leftSeconds(e);
    this.finish(e);
  }

  private cutStart(start: ProgramStart, t: EpochS, why: "deadline" | "cut"): void {
    for (const e of start.entries) if (e.state !== "done") this.abandon(e, t, why);
    start.state = "finished";
  }

  private cutAtDeadline(t: EpochS): void {
    for (const s of this.starts)
      if ((s.state === "active" || s.state === "waiting") && t >= s.deadline) {
        const subject = this.w.site.programs[s.program]?.id;
        if (s.entries.some((e) => e.state !== "done"))
          if (s.cutBy === null) this.warn("dayEnd", subject, t);
          else this.warn("startCut", subject, s.at, s.cutBy);
        this.cutStart(s, t, s.cutBy === null ? "deadline" : "cut");
      }
  }

  /** Where source hours end or hand watering begins, the latest opened close until the set is allowed again. */
  private trimToCapacity(t: EpochS): void {
    if (this.running.length === 0) return;
    for (let g = 0; g < this.capacity.groupCount; g++) {
      const fits = (): boolean =>
        this.capacity.assignment(g, t).assign(this.demand(this.running.filter((e) => this.groupOf(e.station) === g)));
      while (!fits()) {
        const mine = this.running.filter((e) => this.groupOf(e.station) === g && this.drawsOnOverloaded(e, g, t));
        const latest = (mine.length > 0 ? mine : this.running.filter((e) => this.groupOf(e.station) === g)).reduce(
          (a, b) => (b.openOrder > a.openOrder ? b : a),
        );
        this.pause(latest, t, "sourceHours");
      }
    }
  }

  /** Would the set without this station's whole system be allowed more than with it? Only such a station is worth closing. */
  private drawsOnOverloaded(e: Entry, g: number, t: EpochS): boolean {
    const system = this.systemOf(e.station);
    const sharesSource = this.running.filter(
      (r) =>
        this.groupOf(r.station) === g &&
        (this.systemOf(r.station) === system || this.shareSource(r.station, e.station)),
    );
    return !this.capacity.assignment(g, t).assign(this.demand(sharesSource));
  }

  private shareSource(a: number, b: number): boolean {
    const sources = (s: number): number[] =>
      (this.w.pocsAbove[this.w.stationMainline[s] as number] ?? []).flatMap((p) => this.w.pocSources[p] ?? []);
    const mine = sources(a);
    return sources(b).some((s) => mine.includes(s));
  }

  private groupOf(station: number): number {
    return this.capacity.groupOfController[this.w.stationController[station] as number] as number;
  }

  private demand(entries: Entry[]): number[] {
    const demand = this.w.site.mainlines.map(() => 0);
    for (const e of entries) {
      const m = this.w.stationMainline[e.station] as number;
      demand[m] = (demand[m] as number) + (e.flowLpm ?? 0);
    }
    return demand;
  }

  // ---- starting ------------------------------------------------------------------------------------------------

  private beginStarts(t: EpochS): void {
    for (const start of this.starts) {
      if (start.state !== "pending" || start.at > t) continue;
      const earlier = this.starts.filter(
        (s) => s !== start && s.program === start.program && (s.state === "active" || s.state === "waiting"),
      );
      const unfinished = earlier.filter((s) => s.entries.some((e) => e.state !== "done"));
      const subject = this.w.site.programs[start.program]?.id;
      if (unfinished.length > 0) {
        const heldBack = !this.isOpen(start.program, t) || !this.isOpen(start.program, t - 1);
        if (heldBack) {
          for (const s of unfinished) {
            this.warn("startCut", subject, s.at, start.at);
            this.cutStart(s, t, "cut");
          }
        } else this.warn("startsQueue", subject, start.at, unfinished[0]?.at);
      }
      start.state = "waiting";
    }
    for (const start of this.starts) {
      if (start.state !== "waiting") continue;
      const ahead = this.starts.some(
        (s) =>
          s.program === start.program &&
          s !== start &&
          (s.state === "active" || (s.state === "waiting" && this.starts.indexOf(s) < this.starts.indexOf(start))),
      );
      if (ahead) continue;
      start.state = "active";
      this.activate(start, t);
    }
  }

  private activate(start: ProgramStart, t: EpochS): void {
    const { programs } = this.w.site;
    for (const e of start.entries) {
      if (e.state === "done") continue;
      const never = neverRuns(this.w, this.capacity, this.starts, e, this.lockedStations);
      if (never) {
        this.warn(never, this.w.site.stations[e.station]?.id, start.at);
        e.shortS += leftSeconds(e);
        e.state = "done";
        continue;
      }
      if (e.flowLpm === null) this.warn("noFlow", this.w.site.stations[e.station]?.id, start.at);
      e.readyAt = t;
      this.queue.push(e);
    }
    this.queue.sort(
      (a, b) =>
        (programs[a.program]?.priority ?? 1) - (programs[b.program]?.priority ?? 1) ||
        a.start.at - b.start.at ||
        a.program - b.program ||
        a.start.entries.indexOf(a) - b.start.entries.indexOf(b),
    );
    if (start.entries.every((e) => e.state === "done")) start.state = "finished";
  }

  // ---- opening -------------------------------------------------------------------------------------------------

  private openWhatFits(t: EpochS): void {
    const barred = new Set<Entry>();
    for (;;) {
      const added = this.read(t, barred);
      const taken = this.takeBackUnderPumpMinimum(added, t);
      if (taken.length === 0) return;
      if (taken.length === added.length) {
        // Nothing came of this reading. What was taken back must not keep others from their turn.
        const before = barred.size;
        for (const e of taken) barred.add(e);
        if (barred.size === before) return;
      }
    }
  }

  /** Reads the queue once from its head; returns what it opened. */
  private read(t: EpochS, barred: Set<Entry>): Entry[] {
    const { programs } = this.w.site;
    const added: Entry[] = [];
    const strictEnded = new Set<ProgramStart>();
    this.tooMuch.clear();
    for (const e of this.queue) {
      if (e.state !== "waiting") continue;
      let code = this.whyNot(e, t, barred, strictEnded);
      let elementId: string | undefined;
      if (code === "programAtOnce") elementId = programs[e.program]?.id;
      else if (code === "controllerAtOnce") elementId = programs[e.program]?.controllerId;
      else if (code === "input") elementId = this.pausedBy(e, t) ?? undefined;
      if (code === null && !this.fits(e, t)) {
        code = "ceiling";
        elementId = this.bindingId(e, t);
      }
      if (code !== null) {
        // A soaking station is skipped, and so is one that is shut off: the others do not wait for a repair.
        if (code !== "soak" && code !== "lockedOut" && programs[e.program]?.dispatch === "strict")
          strictEnded.add(e.start);
        if (e.blocked === null || e.blocked.code !== code || e.blocked.elementId !== elementId)
          e.blocked = { code, since: t, ...(elementId ? { elementId } : {}) };
        continue;
      }
      e.state = "running";
      e.openedAt = t;
      e.openOrder = ++this.opened;
      this.running.push(e);
      added.push(e);
    }
    return added;
  }

  /** What keeps a waiting entry from opening now, capacity aside; null when nothing does. */
  private whyNot(e: Entry, t: EpochS, barred: Set<Entry>, strictEnded: Set<ProgramStart>): BlockCode | null {
    if (e.readyAt > t) return "soak";
    if (strictEnded.size > 0 && strictEnded.has(e.start)) return "strictOrder";
    if (!this.isOpen(e.program, t)) return "window";
    if (this.pausedBy(e, t) !== null) return "input";
    if (this.suspendedSystems.size > 0 && this.suspendedSystems.has(this.systemOf(e.station))) return "search";
    if (this.lockedStations.size > 0 && this.lockedStations.has(e.station)) return "lockedOut";
    if (barred.size > 0 && barred.has(e)) return "pumpMinimum";
    const { site, stationController } = this.w;
    const program = site.programs[e.program] as (typeof site.programs)[number];
    if (t < (this.lastClose[e.program] as number) + (program.delayS ?? 0)) return "delay";
    const controller = stationController[e.station] as number;
    const system = this.systemOf(e.station);
    let inProgram = 0;
    let onController = 0;
    let apart = false;
    for (const r of this.running) {
      if (r.station === e.station) return "stationRunning";
      if (r.program === e.program) inProgram++;
      if (stationController[r.station] === controller) onController++;
      // A station without any flow figure runs alone on its connected system.
      if ((e.flowLpm === null || r.flowLpm === null) && this.systemOf(r.station) === system) apart = true;
    }
    if (inProgram >= (program.maxStationsAtOnce ?? 1)) return "programAtOnce";
    if (this.running.length >= (site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY)) return "siteAtOnce";
    if (onController >= (site.controllers[controller]?.maxStationsAtOnce ?? Number.POSITIVE_INFINITY))
      return "controllerAtOnce";
    return apart ? "runsAlone" : null;
  }

  /** Smallest flow that did not fit in this reading, by group and mainline: what is no smaller cannot fit either. */
  private readonly tooMuch = new Map<number, number>();

  private fits(e: Entry, t: EpochS): boolean {
    const group = this.groupOf(e.station);
    const mainline = this.w.stationMainline[e.station] as number;
    const flow = e.flowLpm ?? 0;
    const key = group * this.w.site.mainlines.length + mainline;
    const known = this.tooMuch.get(key) ?? Number.POSITIVE_INFINITY;
    if (flow < known && this.assignment(group, t).tryAdd(mainline, flow)) return true;
    this.tooMuch.set(key, Math.min(flow, known));
    return false;
  }

  private bindingId(e: Entry, t: EpochS): string | undefined {
    const at = this.assignment(this.groupOf(e.station), t).binding(
      this.w.stationMainline[e.station] as number,
      e.flowLpm ?? 0,
    );
    if (!at) return undefined;
    const { sources, pocs, mainlines } = this.w.site;
    return { source: sources, poc: pocs, mainline: mainlines }[at.kind][at.index]?.id;
  }

  private assignment(group: number, t: EpochS): FlowAssignment {
    const ready = this.assignments[group];
    if (ready) return ready;
    const made = this.capacity.assignment(group, t);
    made.assign(this.demand(this.running.filter((e) => this.groupOf(e.station) === group)));
    this.assignments[group] = made;
    return made;
  }

  // ---- pumps ---------------------------------------------------------------------------------------------------

  private callsPump(e: Entry, poc: number): boolean {
    return (
      this.w.site.stations[e.station]?.usesPump !== false &&
      (this.w.pocsAbove[this.w.stationMainline[e.station] as number] ?? []).includes(poc)
    );
  }

  /** Pumps that run under their minimum flow with the stations now open. */
  private pumpsUnderMinimum(t: EpochS): { poc: number; minLpm: number; deadline: EpochS | null }[] {
    if (this.pumps.length === 0 || this.running.length === 0) return [];
    this.assignments = [];
    const poc = this.w.site.pocs.map(() => 0);
    for (let g = 0; g < this.capacity.groupCount; g++) {
      const flows = this.assignment(g, t).flows().poc;
      for (const [p, f] of flows.entries()) poc[p] = (poc[p] as number) + f;
    }
    return this.pumps.filter((pump) => {
      const flow = poc[pump.poc] as number;
      return (
        flow > 1e-6 &&
        flow < pump.minLpm - 1e-6 &&
        this.running.some((e) => e.flowLpm !== null && this.callsPump(e, pump.poc))
      );
    });
  }

  private takeBackUnderPumpMinimum(added: Entry[], t: EpochS): Entry[] {
    const taken: Entry[] = [];
    for (;;) {
      const under = this.pumpsUnderMinimum(t);
      const back = added.filter((e) => !taken.includes(e) && under.some((p) => this.callsPump(e, p.poc)));
      if (back.length === 0) return taken;
      for (const e of back) {
        e.state = "waiting";
        e.blocked = { code: "pumpMinimum", since: e.blocked?.since ?? t };
        taken.push(e);
      }
      this.running = this.running.filter((r) => !back.includes(r));
      this.assignments = [];
    }
  }

  private watchPumps(t: EpochS): void {
    const under = this.pumpsUnderMinimum(t);
    for (const pump of this.pumps)
      pump.deadline = under.includes(pump) ? (pump.deadline ?? t + PUMP_UNDER_MINIMUM_S) : null;
  }

  private pauseUnderPumpMinimum(t: EpochS): void {
    for (const pump of this.pumpsUnderMinimum(t)) {
      if (pump.deadline === null || t < pump.deadline) continue;
      for (const e of this.running.filter((r) => this.callsPump(r, pump.poc))) {
        this.warn("pumpMinimum", this.w.site.stations[e.station]?.id, t);
        this.pause(e, t, "pumpMinimum");
      }
      pump.deadline = null;
    }
  }

  warn(code: NightWarningCode, subjectId?: string, at?: EpochS, otherAt?: EpochS): void {
    if (
      this.warnings.some((w) => w.code === code && w.subjectId === subjectId && (code !== "startsQueue" || w.at === at))
    )
      return;
    this.warnings.push({
      code,
      ...(subjectId === undefined ? {} : { subjectId }),
      ...(at === undefined ? {} : { at }),
      ...(otherAt === undefined ? {} : { otherAt }),
    });
  }

  // ---- for the bench's controller ------------------------------------------------------------------------------

  /** Credits seconds watered outside dispatch (a station's test) to what an entry had left. */
  credit(e: Entry, seconds: number, t: EpochS): void {
    if (e.state === "done") return;
    e.deliveredS += seconds;
    e.leftS -= seconds;
    e.readyAt = t;
    if (e.leftS <= 0) this.nextCycle(e, t);
  }

  /** Are stations of this system still to come tonight, waiting or in a later start? */
  moreToCome(system: number): boolean {
    const mine = (e: Entry): boolean =>
      e.state !== "done" && this.systemOf(e.station) === system && !this.lockedStations.has(e.station);
    return this.starts.some((s) => s.state !== "finished" && s.entries.some(mine));
  }

  /** Entries in the order in which the queue is read. */
  inQueueOrder(entries: Entry[]): Entry[] {
    return [...entries].sort((a, b) => this.queue.indexOf(a) - this.queue.indexOf(b));
  }

  /** Locks a station out: what it still had to water is a shortfall. */
  lockStation(station: number, t: EpochS): void {
    this.lockedStations.add(station);
    this.abandonWhere((e) => e.station === station, t);
  }

  /** Closes a station for `seconds`: a lockout that ends by itself. */
  restStation(station: number, seconds: number, t: EpochS): void {
    for (const e of this.queue) if (e.station === station) e.readyAt = Math.max(e.readyAt, t + seconds);
  }

  /** Locks mainlines and POCs out; every station that they leave without water is a shortfall. */
  lockElements(elements: { mainlines: number[]; pocs: number[] }, t: EpochS): void {
    for (const m of elements.mainlines) this.capacity.lockedMainlines.add(m);
    for (const p of elements.pocs) this.capacity.lockedPocs.add(p);
    this.assignments = [];
    this.abandonWhere((e) => neverRuns(this.w, this.capacity, this.starts, e, this.lockedStations) === "lockedOut", t);
  }

  /** Ends the night of some mainlines. */
  stopMains(mains: ReadonlySet<number>, t: EpochS): void {
    this.abandonWhere((e) => mains.has(this.w.stationMainline[e.station] as number), t);
  }

  /** Ends a connected system's night. */
  stopSystem(system: number, t: EpochS): void {
    this.suspendedSystems.add(system);
    this.abandonWhere((e) => this.systemOf(e.station) === system, t);
  }

  private abandonWhere(of: (e: Entry) => boolean, t: EpochS): void {
    for (const start of this.starts)
      for (const e of start.entries)
        if (start.state !== "finished" && e.state !== "done" && of(e)) this.abandon(e, t, "limit");
    for (const start of this.starts)
      if (start.state === "active" && start.entries.every((e) => e.state === "done")) start.state = "finished";
  }
}
