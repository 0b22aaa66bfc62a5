import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { CapacityCalendar } from "./capacity.ts";
import { FlowsNow } from "./flows-now.ts";
import { PumpMinimums } from "./pump-minimums.ts";
import { ProgramHours } from "./program-hours.ts";
import { type BlockCode, byTurn, type Entry, leftSeconds, type ProgramStart, programStarts } from "./queue.ts";
import type { RunRecord } from "./run-record.ts";
import { neverRuns } from "./never-runs.ts";
import { type NightWarning, type NightWarningCode, warnOnce } from "./night-warnings.ts";

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
  protected readonly queue: Entry[] = [];
  private readonly hours: ProgramHours;
  private readonly lastClose: number[];
  protected readonly flows: FlowsNow;
  private readonly pumps: PumpMinimums;
  private opened = 0;
  protected readonly w: Waterworks;

  constructor(w: Waterworks, date: string) {
    this.w = w;
    const { site } = w;
    this.starts = programStarts(w, date);
    this.capacity = new CapacityCalendar(w, date);
    this.hours = new ProgramHours(site, date);
    this.lastClose = site.programs.map(() => Number.NEGATIVE_INFINITY);
    this.lockedStations = new Set(site.stations.flatMap((s, i) => (s.lockedOut ? [i] : [])));
    this.flows = new FlowsNow(w, this.capacity, () => this.running);
    this.pumps = new PumpMinimums(w, this.flows, () => this.running);
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
      for (const at of this.hours.changes(p, t)) consider(at);
      consider((this.lastClose[p] as number) + (this.w.site.programs[p]?.delayS ?? 0));
    }
    for (const deadline of this.pumps.deadlines()) consider(deadline);
    consider(this.capacity.nextChange(t));
    return Number.isFinite(next) ? next : null;
  }

  /** Closes, then window ends, then cuts, then openings (site-file#order-in-one-second). */
  step(t: EpochS): void {
    for (const e of this.running.filter((e) => e.openedAt + e.leftS <= t)) this.complete(e, t);
    for (const e of this.running.filter((e) => !this.isOpen(e.program, t))) this.pause(e, t, "window");
    for (const e of this.running.filter((e) => this.pausedBy(e, t) !== null)) this.pause(e, t, "input");
    this.trimToCapacity(t);
    this.cutAtDeadline(t);
    this.beginStarts(t);
    this.pauseUnderPumpMinimum(t);
    this.openWhatFits(t);
    this.pumps.watch(t);
  }

  /** Neither its water window nor an input holds it back. */
  protected mayRun(e: Entry, t: EpochS): boolean {
    return this.isOpen(e.program, t) && this.pausedBy(e, t) === null;
  }

  isOpen(program: number, t: EpochS): boolean {
    return this.hours.isOpen(program, t);
  }

  /** The first instant from `t` on at which a program's hours are open. */
  firstOpen(program: number, t: EpochS): EpochS {
    return this.hours.firstOpen(program, t);
  }

  /** The weather input that holds a program back now. */
  pausing(program: number, t: EpochS): string | null {
    return this.hours.pausedBy(program, undefined, t);
  }

  private pausedBy(e: Entry, t: EpochS): string | null {
    return this.hours.pausedBy(e.program, this.w.site.stations[e.station]?.ignoresInputs, t);
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
    this.flows.changed();
  }

  private complete(e: Entry, t: EpochS): void {
    this.record(e, t, "complete");
    this.nextCycle(e, t);
  }

  protected nextCycle(e: Entry, t: EpochS): void {
    e.cycle++;
    if (e.cycle >= e.cycles.length) {
      this.finish(e);
      return;
    }
    e.leftS = e.cycles[e.cycle] as number;
    e.readyAt = t + e.soakS;
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

  protected cutStart(start: ProgramStart, t: EpochS, why: RunRecord["ended"]): void {
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
    for (let g = 0; g < this.capacity.groupCount; g++)
      for (let latest = this.flows.tooMany(g, t); latest; latest = this.flows.tooMany(g, t))
        this.pause(latest, t, "sourceHours");
  }

  // ---- starting ------------------------------------------------------------------------------------------------

  private beginStarts(t: EpochS): void {
    for (const start of this.starts) if (start.state === "pending" && start.at <= t) this.becomeDue(start, t);
    this.starts.forEach((start, i) => {
      if (start.state !== "waiting" || this.isBehindAnother(start, i)) return;
      start.state = "active";
      this.activate(start, t);
    });
  }

  /** A start's time has come: an earlier one of its program that is held back is cut, one that still waters goes first. */
  private becomeDue(start: ProgramStart, t: EpochS): void {
    const unfinished = this.starts.filter(
      (s) =>
        s !== start &&
        s.program === start.program &&
        (s.state === "active" || s.state === "waiting") &&
        s.entries.some((e) => e.state !== "done"),
    );
    const subject = this.w.site.programs[start.program]?.id;
    const heldBack = !this.isOpen(start.program, t) || !this.isOpen(start.program, t - 1);
    if (unfinished.length > 0 && !heldBack) this.warn("startsQueue", subject, start.at, unfinished[0]?.at);
    if (heldBack)
      for (const s of unfinished) {
        this.warn("startCut", subject, s.at, start.at);
        this.cutStart(s, t, "cut");
      }
    start.state = "waiting";
  }

  private isBehindAnother(start: ProgramStart, index: number): boolean {
    return this.starts.some(
      (s, i) =>
        s !== start && s.program === start.program && (s.state === "active" || (s.state === "waiting" && i < index)),
    );
  }

  protected activate(start: ProgramStart, t: EpochS): void {
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
    this.queue.sort(byTurn(this.w));
    if (start.entries.every((e) => e.state === "done")) start.state = "finished";
  }

  // ---- opening -------------------------------------------------------------------------------------------------

  private openWhatFits(t: EpochS): void {
    const barred = new Set<Entry>();
    for (;;) {
      const added = this.read(t, barred);
      const taken = this.takeBackUnderPumpMinimum(added, t);
      if (taken.length === 0) return;
      // Beside what has opened they may reach the minimum now.
      if (taken.length < added.length) barred.clear();
      else {
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
    this.flows.beginReading();
    for (const e of this.queue) {
      if (e.state !== "waiting") continue;
      const code = this.whyNot(e, t, barred, strictEnded) ?? (this.flows.fits(e, t) ? null : "ceiling");
      if (code !== null) {
        // A soaking station is skipped, and so is one that is shut off: the others do not wait for a repair.
        if (code !== "soak" && code !== "lockedOut" && programs[e.program]?.dispatch === "strict")
          strictEnded.add(e.start);
        this.hold(e, code, t);
        continue;
      }
      this.openNow(e, t);
      added.push(e);
    }
    return added;
  }

  protected openNow(e: Entry, t: EpochS): void {
    e.state = "running";
    e.openedAt = t;
    e.openOrder = ++this.opened;
    this.running.push(e);
  }

  /** Notes what an entry waits for, and since when. */
  private hold(e: Entry, code: BlockCode, t: EpochS): void {
    const elementId = this.blockingId(e, code, t);
    if (e.blocked === null || e.blocked.code !== code || e.blocked.elementId !== elementId)
      e.blocked = { code, since: t, ...(elementId ? { elementId } : {}) };
  }

  private blockingId(e: Entry, code: BlockCode, t: EpochS): string | undefined {
    const program = this.w.site.programs[e.program];
    if (code === "programAtOnce") return program?.id;
    if (code === "controllerAtOnce") return program?.controllerId;
    if (code === "input") return this.pausedBy(e, t) ?? undefined;
    return code === "ceiling" ? this.flows.bindingId(e, t) : undefined;
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
    const program = this.w.site.programs[e.program];
    if (t < (this.lastClose[e.program] as number) + (program?.delayS ?? 0)) return "delay";
    return this.keptOutByRunning(e);
  }

  /** What already runs may keep an entry out: itself, the numbers at once, a station that must run alone. */
  private keptOutByRunning(e: Entry): BlockCode | null {
    const { site, stationController } = this.w;
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
    if (inProgram >= (site.programs[e.program]?.maxStationsAtOnce ?? 1)) return "programAtOnce";
    if (this.running.length >= (site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY)) return "siteAtOnce";
    if (onController >= (site.controllers[controller]?.maxStationsAtOnce ?? Number.POSITIVE_INFINITY))
      return "controllerAtOnce";
    return apart ? "runsAlone" : null;
  }

  // ---- pumps ---------------------------------------------------------------------------------------------------

  private takeBackUnderPumpMinimum(added: Entry[], t: EpochS): Entry[] {
    const taken: Entry[] = [];
    for (;;) {
      const under = this.pumps.under(t);
      const back = added.filter((e) => !taken.includes(e) && under.some((p) => this.pumps.calls(e, p.poc)));
      if (back.length === 0) return taken;
      for (const e of back) {
        e.state = "waiting";
        e.blocked = { code: "pumpMinimum", since: e.blocked?.since ?? t };
        taken.push(e);
      }
      this.running = this.running.filter((r) => !back.includes(r));
      this.flows.changed();
    }
  }

  private pauseUnderPumpMinimum(t: EpochS): void {
    for (const pump of this.pumps.due(t)) {
      for (const e of this.running.filter((r) => this.pumps.calls(r, pump.poc))) {
        this.warn("pumpMinimum", this.w.site.stations[e.station]?.id, t);
        this.pause(e, t, "pumpMinimum");
      }
      pump.deadline = null;
    }
  }

  warn(code: NightWarningCode, subjectId?: string, at?: EpochS, otherAt?: EpochS): void {
    warnOnce(this.warnings, code, subjectId, at, otherAt);
  }
}
