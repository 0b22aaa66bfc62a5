import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import { Night } from "../dispatch/night.ts";
import type { Entry } from "../dispatch/queue.ts";

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
    this.capacity.lock(elements);
    this.flows.capacityChanged();
    this.abandonWhere((e) => neverRuns(this.w, this.capacity, this.starts, e, this.lockedStations) === "lockedOut", t);
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
