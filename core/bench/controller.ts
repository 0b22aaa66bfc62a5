import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { BenchNight } from "./bench-night.ts";
import type { Entry } from "../dispatch/queue.ts";
import type { AlarmKind } from "../judge/alarm.ts";
import { isCalm, judgeSet, keyOfSet, type Seen, type SetTrip, tripsAnew, valvesTurned } from "../judge/judge.ts";
import { fillS } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Response } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import type { Commands, PlantSecond } from "./plant.ts";
import { commandsFor, tellValves } from "./valve-commands.ts";
import { beginFind, continueFind } from "./find-and-isolate.ts";
import { ControllerRecord } from "./controller-record.ts";
import { provedRight, settleSuspects, suspectLow } from "./suspects.ts";
import type { RunningSet, SystemState } from "./system.ts";
import { watchBurst, watchOffSchedule, watchPressure, watchPumps } from "./watchers.ts";

type Retest = NonNullable<SystemState["retest"]>;

/**
 * The controller on the bench: dispatches the night and obeys limits, find and isolate, burst, off-schedule and pump rules
 * exactly as configured (handbook#8-limits, site-file#judging, site-file#isolating, site-file#where-rules-meet). Driven one second at a time.
 */
export class BenchController extends ControllerRecord {
  private commands: Commands;
  private lastRunning = new Set<Entry>();
  private opensBefore: boolean[];

  constructor(w: Waterworks, night: BenchNight, exact: boolean) {
    super(w, night, exact);
    this.opensBefore = w.site.pocs.map(() => false);
    this.commands = this.wanted(Number.NEGATIVE_INFINITY);
  }

  /** What the plant shows in the second that is judged. */
  private readonly eyes: Seen = {
    pocLpm: (p) => this.lastSeen?.pocReading[p] ?? null,
    mainLpm: (m) => this.lastSeen?.mainlineReading[m] ?? null,
    pressureKpa: ({ poc }) => this.lastSeen?.pressureKpa[poc] ?? 0,
    pumpRuns: (p) => this.commands.pump[p] === true,
    pocOpen: (p) => this.commands.pocValve[p] === true,
  };

  /** What is open and running from now on. */
  get now(): Commands {
    return this.commands;
  }

  get busy(): boolean {
    return this.systems.some((s) => s.search !== null || s.retest !== null);
  }

  /** Nothing is being counted, tested or waited for: only an event of the night or a change on the site makes it act. */
  get quiet(): boolean {
    return !this.busy && !this.dirty && this.systems.every((s) => s.suspects.size === 0 && isCalm(s.judge));
  }

  /** Before the first second: what a normally open valve and hand-watering hours ask for. */
  begin(t: EpochS): void {
    this.night.step(t);
    this.applyValves(t);
  }

  /** The second that ended at `now` is judged; then the night goes on. */
  second(now: EpochS, second: PlantSecond): void {
    this.lastSeen = second;
    const seen = this.eyes;
    for (const system of this.systems) {
      const testEnded = watchPumps(this, system, seen, now);
      if (!system.unjudged) watchBurst(this, system, seen, now);
      if (testEnded) continue;
      if (system.search) continueFind(this, system, seen, now);
      else if (system.retest && !system.retest.opened) this.waitForRetest(system, system.retest, now);
      else if (!system.unjudged) {
        for (let point = 0; point < system.points.length; point++)
          if (!system.search && system.retest?.opened !== false) this.judge(system, point, seen, now);
        watchOffSchedule(this, system, seen, now);
        watchPressure(this, system, seen, now);
      }
      if (system.retest?.opened) this.followRetest(system, system.retest, now);
      settleSuspects(this, system, now);
    }
    if (!this.dirty && !this.busy && this.nextDue !== null && now < this.nextDue) return;
    this.night.step(now);
    this.dirty = false;
    this.applyValves(now);
    this.nextDue = this.nextChange(now);
  }

  /** Next instant at which dispatch or what is reserved can change by itself; Infinity when nothing will. */
  nextChange(now: EpochS): EpochS {
    return Math.min(
      this.night.nextEventAt(now) ?? Number.POSITIVE_INFINITY,
      this.night.capacity.nextChange(now) ?? Number.POSITIVE_INFINITY,
    );
  }

  private nextDue: EpochS | null = null;

  private valveChanges = 0;

  // ---- valves --------------------------------------------------------------------------------------------------

  private wanted(t: EpochS): Commands {
    return commandsFor(this.w, this.night, this.systems, t);
  }

  private applyValves(now: EpochS): void {
    this.tellRuns(now);
    const after = this.wanted(now);
    const { changed, firstOpening } = tellValves(this, this.commands, after, this.opensBefore, now);
    this.commands = after;
    this.valveChanges++;
    for (const index of changed) {
      const system = nth(this.systems, index);
      const fill = !this.exact && firstOpening.has(index) ? fillS(this.w, system) : 0;
      valvesTurned(system.judge, now, Math.max(this.holdOffS(system), fill));
    }
  }

  private tellRuns(now: EpochS): void {
    const { site } = this.w;
    const running = new Set(this.night.running);
    for (const e of this.lastRunning)
      if (!running.has(e)) this.log(now, "close", site.stations[e.station]?.id, this.closeReason(e, now));
    for (const e of running)
      if (!this.lastRunning.has(e)) {
        const program = site.programs[e.program]?.name ?? "";
        this.log(now, "open", site.stations[e.station]?.id, `${program}, cycle ${e.cycle + 1}`);
      }
    this.lastRunning = running;
  }

  private closeReason(e: Entry, now: EpochS): string {
    const last = [...this.night.runs].reverse().find((r) => r.station === e.station && r.end === now);
    return last?.ended ?? "";
  }

  // ---- judging -------------------------------------------------------------------------------------------------

  private judge(system: SystemState, place: number, seen: Seen, now: EpochS): void {
    const point = nth(system.points, place);
    const set = this.setBehind(system, place);
    const { judge, allowanceLpm } = system;
    const { trip, right } = judgeSet(this.w, judge, place, point, seen, set.stations, set.key, allowanceLpm, now);
    if (trip) this.trip(system, place, trip, now);
    else if (right) provedRight(this, system, set.entries, right, now);
  }

  private setBehind(system: SystemState, place: number): RunningSet {
    const known = nth(system.sets, place);
    if (known.asOf === this.valveChanges && !this.dirty) return known;
    const { covers } = nth(system.points, place);
    const entries = this.runningIn(system).filter((e) => covers.has(nth(this.w.stationMainline, e.station)));
    const stations = entries.map((e) => e.station);
    const set = { entries, stations, key: keyOfSet(stations), asOf: this.valveChanges };
    system.sets[place] = set;
    return set;
  }

  private trip(system: SystemState, place: number, tripped: SetTrip, now: EpochS): void {
    const { kind, measuredLpm: measured, limits, policy } = tripped;
    const set = nth(system.sets, place).entries;
    const key = `${kind}:${system.judge.points[place]?.key}`;
    const retestKey = `${system.judge.points[place]?.key}@${Math.min(...set.map((e) => e.start.at))}`;
    const units = this.w.site.site.units;
    const limitLpm = kind === "high" ? limits.highLpm : limits.lowLpm;
    this.log(
      now,
      "trip",
      tripped.subjectId,
      `${kind}: ${showQuantity(measured, "flow", units, 1)} against ${showQuantity(limitLpm, "flow", units, 1)}`,
    );
    if (policy.retest && !system.retested.has(retestKey)) {
      system.retested.add(retestKey);
      this.beginRetest(system, set, now);
      return;
    }
    this.endRetest(system);
    const alarmKind: AlarmKind = kind === "high" ? "stationHigh" : "stationLow";
    if (system.searched.has(key)) {
      this.alarm(now, alarmKind, tripped.subjectId, measured, limits.expectedLpm, "searchedBefore");
      return;
    }
    const response: Response = kind === "high" ? policy.highResponse : policy.lowResponse;
    switch (response) {
      case "notify":
        this.alarm(now, alarmKind, tripped.subjectId, measured, limits.expectedLpm);
        return;
      case "stopStation":
        for (const e of set) {
          this.alarm(now, alarmKind, this.w.site.stations[e.station]?.id, measured, limits.expectedLpm, "stopStation");
          this.lockStation(e, now);
        }
        return;
      case "stopAll":
        this.alarm(now, alarmKind, tripped.subjectId, measured, limits.expectedLpm, "stopAll");
        this.stopSystem(system, now, `${alarmKind}: stop all`);
        this.lockPocs(system.pocs, now);
        return;
      case "findAndIsolate":
        if (kind === "low" && this.runningIn(system).length === 1)
          suspectLow(this, system, nth(set, 0), measured, limits, now);
        else beginFind(this, system, place, kind, set, key, now);
    }
  }

  // ---- retest --------------------------------------------------------------------------------------------------

  private beginRetest(system: SystemState, set: Entry[], now: EpochS): void {
    const kept = set.map((entry) => ({ entry, cycle: entry.cycle }));
    for (const e of set) this.night.pause(e, now, "limit");
    tripsAnew(system.judge);
    this.night.suspendedSystems.add(system.index);
    const opensAt = now + (this.policyOf(set).retestWaitS ?? 60);
    system.retest = { set: kept, opensAt, opened: false, judgedUntil: null };
    this.log(now, "retest", this.setSubject(set), "closed; runs again after the wait, only a second trip counts");
    this.dirty = true;
  }

  private waitForRetest(system: SystemState, retest: Retest, now: EpochS): void {
    if (now < retest.opensAt) return;
    this.night.reopen(retest.set, now);
    retest.opened = true;
    if (!this.anyRunsIn(system)) this.endRetest(system);
    this.dirty = true;
  }

  /** Open once more, it is judged until hold-off and persistence are over; till then nothing else of its system opens. */
  private followRetest(system: SystemState, retest: Retest, now: EpochS): void {
    if (now <= retest.opensAt) return;
    retest.judgedUntil ??= system.judge.holdUntil + this.policyOf(retest.set.map((r) => r.entry)).persistenceS;
    if (now >= retest.judgedUntil || !this.anyRunsIn(system)) this.endRetest(system);
  }

  private endRetest(system: SystemState): void {
    if (!system.retest) return;
    system.retest = null;
    if (!system.stopped) this.night.suspendedSystems.delete(system.index);
    this.dirty = true;
  }
}
