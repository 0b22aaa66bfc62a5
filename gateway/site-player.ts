import { type BenchDay, beginBenchDay } from "../core/bench/bench-day.ts";
import { resolveFaults } from "../core/bench/faults/resolve.ts";
import { localDate, localIso } from "../core/dates/wall-time.ts";
import type { EventMessage, ReadingMessage } from "../core/field/messages.ts";
import { withLocks } from "../core/site-file/locks.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

export type Said = Omit<ReadingMessage, "stream" | "seq"> | Omit<EventMessage, "stream" | "seq">;
/** With everything shut and nothing flowing one reading in so many seconds is enough. */
const AT_REST_S = 60;

/**
 * A site as its controller would live it, second after second and day after day, on the bench. The same site, faults and seed always live the same day, so it can be taken up
 * at any instant.
 */
export class SitePlayer {
  private day: BenchDay;
  private t: number;
  private date: string;
  private told = { events: 0, alarms: 0 };
  private lastSaid = "";
  /** How many of the controller's own lockouts the settings that came last know of. */
  private known = 0;
  private site: SiteFile;
  private faults: unknown[];
  private faultsOn: string;
  private readonly seed: number;

  /**
   * @param faultsOn the date on which the faults begin; without an end they last from then on. @default the date of `from`
   * @throws where a fault does not fit the site
   */
  constructor(site: SiteFile, from: number, faults: unknown[], seed: number, faultsOn?: string) {
    this.site = site;
    this.faults = faults;
    this.seed = seed;
    this.t = from;
    this.date = localDate(site.site.timeZone, from);
    this.faultsOn = faultsOn ?? this.date;
    this.day = this.take(this.date);
  }

  /** The second that comes next. */
  get now(): number {
    return this.t;
  }

  get today(): string {
    return this.date;
  }

  /**
   * Other settings or faults from now on: the day is lived again up to now, and goes on with them. Settings that differ only in what this controller has locked out itself
   * hold from the next day on.
   *
   * @throws where a fault does not fit the site; then nothing is changed
   */
  change(site: SiteFile, faults: unknown[]): void {
    const own = this.day.controller.lockouts;
    this.known = own.length;
    const same =
      JSON.stringify(withLocks(site, own, false)) === JSON.stringify(withLocks(this.site, own, false)) &&
      faults === this.faults;
    const [before, faultsBefore, onBefore] = [this.site, this.faults, this.faultsOn];
    if (faults !== this.faults) {
      this.faults = this.noneInThePast(site, faults);
      this.faultsOn = this.date;
    }
    this.site = site;
    if (same) return;
    try {
      this.day = this.take(this.date);
    } catch (error) {
      this.site = before;
      this.faults = faultsBefore;
      this.faultsOn = onBefore;
      throw error;
    }
  }

  /** Lives one second more; what a controller would say of it. */
  second(): Said[] {
    if (this.over()) this.nextDay();
    return this.step();
  }

  private over(): boolean {
    const { night, controller, midnight } = this.day;
    return this.t >= midnight && night.finished && !controller.busy;
  }

  private nextDay(): void {
    // What was locked out stays so until settings come that know of it.
    this.site = withLocks(this.site, this.day.controller.lockouts.slice(this.known), true);
    this.known = 0;
    this.date = localDate(this.site.site.timeZone, this.t);
    this.day = this.take(this.date);
  }

  private take(date: string): BenchDay {
    const begun = beginBenchDay(this.site, { date, faults: this.faultsOf(date), seed: this.seed });
    if (!begun.ok) throw new Error(begun.problem.message);
    const { day } = begun;
    day.controller.begin(day.begin);
    for (let t = day.begin; t < this.t; t++) {
      const commands = day.controller.now;
      day.controller.second(t + 1, day.plant.second(t, commands));
    }
    this.told = { events: day.controller.events.length, alarms: day.controller.alarms.length };
    return day;
  }

  /** A fault that is new begins now at the earliest: what has been said cannot be taken back. */
  private noneInThePast(site: SiteFile, faults: unknown[]): unknown[] {
    const known = new Set(this.faultsOf(this.date).map((f) => JSON.stringify(f)));
    const resolved = resolveFaults(site, faults, this.date, this.day.night.starts[0]?.at ?? this.day.begin);
    if (!resolved.ok) throw new Error(resolved.problem.message);
    const clock = localIso(site.site.timeZone, this.t).slice(11, 19);
    return faults.map((f, i) =>
      known.has(JSON.stringify(f)) || (resolved.faults[i]?.from as number) >= this.t
        ? f
        : { ...(f as object), at: clock },
    );
  }

  /** What is wrong with it, as it was understood. */
  get wrong(): unknown[] {
    return this.faults;
  }

  /** On later days those that ended are over, and those that did not are there from midnight. */
  private faultsOf(date: string): unknown[] {
    if (date === this.faultsOn) return this.faults;
    return (this.faults as { until?: string }[]).flatMap((f) =>
      f.until === undefined ? [{ ...f, at: "00:00:00" }] : [],
    );
  }

  private step(): Said[] {
    const { site, plant, controller } = this.day;
    const commands = controller.now;
    const seen = plant.second(this.t, commands);
    this.t++;
    controller.second(this.t, seen);
    const at = new Date(this.t * 1000).toISOString();
    const flow: Record<string, number | null> = {};
    const pressure: Record<string, number | null> = {};
    const valves: string[] = [];
    const pumps: string[] = [];
    const tenth = (v: number | null | undefined): number | null =>
      v === null || v === undefined ? null : Math.round(v * 10) / 10;
    site.pocs.forEach((poc, p) => {
      for (const d of poc.devices) {
        if (d.kind === "flowSensor") flow[d.id] = tenth(seen.pocReading[p]);
        if (d.kind === "pressureSensor") pressure[d.id] = tenth(seen.pressureKpa[p]);
        if (d.kind === "masterValve" && commands.pocValve[p]) valves.push(d.id);
        if (d.kind === "pump" && commands.pump[p]) pumps.push(d.id);
      }
    });
    site.mainlines.forEach((main, m) => {
      for (const d of main.devices ?? []) {
        if (d.kind === "flowSensor") flow[d.id] = tenth(seen.mainlineReading[m]);
        if (d.kind === "masterValve" && commands.mainlineValve[m]) valves.push(d.id);
      }
    });
    const open = [...commands.stations].map((s) => site.stations[s]?.id as string);
    const standing = JSON.stringify([open, valves, pumps]);
    const said: Said[] = [];
    if (
      standing !== this.lastSaid ||
      open.length > 0 ||
      this.t % AT_REST_S === 0 ||
      Object.values(flow).some((q) => q !== null && q > 0)
    )
      said.push({ at, kind: "reading", flow, pressure, open, valves, pumps });
    this.lastSaid = standing;
    for (const e of controller.events.slice(this.told.events)) {
      const alarm = e.type === "alarm" ? controller.alarms[this.told.alarms++] : undefined;
      said.push({
        at: new Date(e.at * 1000).toISOString(),
        kind: "event",
        type: e.type,
        subject: e.subjectId,
        reason: e.reason,
        ...(alarm
          ? {
              alarm: {
                kind: alarm.kind,
                measuredLpm: alarm.measuredLpm,
                expectedLpm: alarm.expectedLpm,
                ...(alarm.note ? { note: alarm.note } : {}),
                ...(alarm.kPa ? { kPa: alarm.kPa } : {}),
              },
            }
          : {}),
      });
    }
    this.told.events = controller.events.length;
    return said;
  }
}
