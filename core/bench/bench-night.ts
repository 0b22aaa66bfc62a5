import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import { neverRunsAlone } from "../dispatch/never-runs.ts";
import { Night } from "../dispatch/night.ts";
import { type Entry, entryOf, type ProgramStart } from "../dispatch/queue.ts";

const DAY_S = 86_400;

/** A night on the bench: dispatched like any other, and what the controller does about trips reaches into it. */
export class BenchNight extends Night {
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

  /** Seconds that each running station has left of its cycle, by its place. */
  leftNow(t: EpochS): Map<number, number> {
    return new Map(this.running.map((e) => [e.station, Math.max(0, e.openedAt + e.leftS - t)]));
  }

  /** Stations that wait, in the order in which they are read. */
  upNext(most: number): number[] {
    return this.queue
      .filter((e) => e.state === "waiting")
      .slice(0, most)
      .map((e) => e.station);
  }

  /** Entries in the order in which the queue is read. */
  inQueueOrder(entries: Entry[]): Entry[] {
    return [...entries].sort((a, b) => this.queue.indexOf(a) - this.queue.indexOf(b));
  }

  /** Opens these as they were, whatever soak, delay or numbers at once say; what has moved on, is locked or held back stays shut. */
  reopen(set: readonly { entry: Entry; cycle: number }[], t: EpochS): void {
    for (const { entry: e, cycle } of set)
      if (e.state === "waiting" && e.cycle === cycle && !this.lockedStations.has(e.station) && this.mayRun(e, t))
        this.openNow(e, t);
  }

  /**
   * Begins a start that no schedule gave, now: its stations go into the queue like any others.
   *
   * @param program a place in the file
   * @returns null where nothing of it can run
   */
  beginByHand(program: number, runs: readonly { station: number; seconds: number }[], t: EpochS): ProgramStart | null {
    const start: ProgramStart = { program, at: t, deadline: t + DAY_S, cutBy: null, state: "active", entries: [] };
    for (const { station, seconds } of runs) {
      const entry = entryOf(this.w, start, station, seconds);
      if (entry) start.entries.push(entry);
    }
    if (!start.entries.some((e) => neverRunsAlone(this.w, this.capacity, e, this.lockedStations) === null)) return null;
    this.starts.push(start);
    this.activate(start, t);
    return start;
  }

  /** What runs now has had enough; what comes after it begins. */
  skip(t: EpochS): number {
    const running = [...this.running];
    for (const e of running) this.abandon(e, t, "skipped");
    return running.length;
  }

  /** Ends everything that has begun. What a schedule gives later still comes. */
  stopAll(t: EpochS): void {
    for (const start of this.starts)
      if (start.state === "active" || start.state === "waiting") this.cutStart(start, t, "stopped");
  }

  /** Frees what was locked out. */
  unlock(of: { stations: number[]; mainlines: number[]; pocs: number[] }): void {
    for (const s of of.stations) this.lockedStations.delete(s);
    this.capacity.unlock(of);
    this.flows.capacityChanged();
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
    this.capacity.lock(elements);
    this.flows.capacityChanged();
    this.abandonWhere((e) => neverRunsAlone(this.w, this.capacity, e, this.lockedStations) === "lockedOut", t);
  }

  /** Ends the night of some mainlines. */
  stopMains(mains: ReadonlySet<number>, t: EpochS): void {
    this.abandonWhere((e) => mains.has(nth(this.w.stationMainline, e.station)), t);
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
