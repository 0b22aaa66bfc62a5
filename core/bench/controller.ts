import type { EpochS } from "../dates/wall-time.ts";
import type { Night } from "../dispatch/night.ts";
import type { Entry } from "../dispatch/queue.ts";
import { advanceSearch, beginSearch, type SearchEffect, type TestResult } from "../isolate/search.ts";
import { type SetLimits, setLimits } from "../judge/set-limits.ts";
import type { AlarmKind } from "../judge/alarm.ts";
import {
  isCalm,
  judgeSet,
  keyOfSet,
  pointLpm,
  type Seen,
  type SetTrip,
  tripsAnew,
  valvesTurned,
} from "../judge/judge.ts";
import { fillS, type JudgePoint, lowestCommonMainline, restLimitLpm } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Response } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import type { Commands, PlantSecond } from "./plant.ts";
import { commandsFor, pumpReason, valveReason } from "./valve-commands.ts";
import { ControllerRecord } from "./controller-record.ts";
import { provedRight, settleSuspects, supplyOfFeed, supplyOrSensor, suspectLow, unsureLow } from "./suspects.ts";
import type { RunningSet, SystemState } from "./system.ts";
import { watchBurst, watchOffSchedule, watchPressure, watchPumps } from "./watchers.ts";

/** A main that makes no pressure without its pump is tested with it running so long, s. */
const PUMP_TEST_S = 30;

/**
 * The controller on the bench: dispatches the night and obeys limits, find and isolate, burst, off-schedule and pump rules
 * exactly as configured (handbook#8-limits, site-file#judging, site-file#isolating, site-file#where-rules-meet). Driven one second at a time.
 */
export class BenchController extends ControllerRecord {
  private commands: Commands;
  private lastRunning = new Set<Entry>();
  private opensBefore: boolean[];
  private readonly exact: boolean;

  constructor(w: Waterworks, night: Night, exact: boolean) {
    super(w, night);
    this.exact = exact;
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
    return this.systems.some((s) => s.search !== null || s.retestUntil !== null);
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
      watchPumps(this, system, seen, now);
      if (!system.unjudged) watchBurst(this, system, seen, now);
      if (system.search) this.continueSearch(system, seen, now);
      else if (system.retestUntil !== null) this.continueRetest(system, now);
      else if (!system.unjudged) {
        for (let point = 0; point < system.points.length; point++)
          if (!system.search && system.retestUntil === null) this.judge(system, point, seen, now);
        watchOffSchedule(this, system, seen, now);
        watchPressure(this, system, seen, now);
      }
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
    const before = this.commands;
    const after = this.wanted(now);
    const { site } = this.w;
    const changed = new Set<number>();
    const firstOpening = new Set<number>();
    for (const e of this.lastRunning)
      if (!this.night.running.includes(e))
        this.log(now, "close", site.stations[e.station]?.id, this.closeReason(e, now));
    for (const e of this.night.running)
      if (!this.lastRunning.has(e))
        this.log(
          now,
          "open",
          site.stations[e.station]?.id,
          `${site.programs[e.program]?.name ?? ""}, cycle ${e.cycle + 1}`,
        );
    this.lastRunning = new Set(this.night.running);
    for (const s of new Set([...before.stations, ...after.stations]))
      if (before.stations.has(s) !== after.stations.has(s)) changed.add(this.night.systemOf(s));
    for (const [i, poc] of site.pocs.entries()) {
      const valve = poc.devices.find((d) => d.kind === "masterValve");
      if (valve && before.pocValve[i] !== after.pocValve[i]) {
        changed.add(this.w.systemOfPoc[i] as number);
        this.log(
          now,
          after.pocValve[i] ? "masterValveOpen" : "masterValveShut",
          valve.id,
          valveReason(this.systems[this.w.systemOfPoc[i] as number], after.pocValve[i] as boolean, {
            locked: this.night.capacity.lockedPocs.has(i),
            byHand: this.night.capacity.reserveLpm(i, now) > 0,
            called: this.calls(i, after),
          }),
        );
        if (after.pocValve[i] && !this.opensBefore[i]) firstOpening.add(this.w.systemOfPoc[i] as number);
        if (after.pocValve[i]) this.opensBefore[i] = true;
      }
      const pump = poc.devices.find((d) => d.kind === "pump");
      if (pump && before.pump[i] !== after.pump[i])
        this.log(
          now,
          after.pump[i] ? "pumpOn" : "pumpOff",
          pump.id,
          pumpReason(
            this.systems[this.w.systemOfPoc[i] as number],
            after.pump[i] as boolean,
            this.night.capacity.lockedPocs.has(i),
          ),
        );
    }
    for (const [i, main] of site.mainlines.entries()) {
      const valve = main.devices?.find((d) => d.kind === "masterValve");
      if (valve && before.mainlineValve[i] !== after.mainlineValve[i]) {
        changed.add(this.w.systemOfMainline[i] as number);
        this.log(
          now,
          after.mainlineValve[i] ? "masterValveOpen" : "masterValveShut",
          valve.id,
          valveReason(this.systems[this.w.systemOfMainline[i] as number], after.mainlineValve[i] as boolean, {
            locked: this.night.capacity.lockedMainlines.has(i),
            byHand: false,
            called: true,
          }),
        );
      }
    }
    this.commands = after;
    this.valveChanges++;
    for (const index of changed) {
      const system = this.systems[index] as SystemState;
      const fill = !this.exact && firstOpening.has(index) ? fillS(this.w, system) : 0;
      valvesTurned(system.judge, now, Math.max(this.holdOffS(system), fill));
    }
  }

  private closeReason(e: Entry, now: EpochS): string {
    const last = [...this.night.runs].reverse().find((r) => r.station === e.station && r.end === now);
    return last?.ended ?? "";
  }

  // ---- judging -------------------------------------------------------------------------------------------------

  private judge(system: SystemState, place: number, seen: Seen, now: EpochS): void {
    const point = system.points[place] as JudgePoint;
    const set = this.setBehind(system, place);
    const allowance = (at: EpochS): number => this.allowance(system, at);
    const { trip, right } = judgeSet(this.w, system.judge, place, point, seen, set.stations, set.key, allowance, now);
    if (trip) this.trip(system, place, trip, now);
    else if (right) provedRight(this, system, set.entries, right, now);
  }

  private setBehind(system: SystemState, place: number): RunningSet {
    const known = system.sets[place] as RunningSet;
    if (known.asOf === this.valveChanges && !this.dirty) return known;
    const { covers } = system.points[place] as JudgePoint;
    const entries = this.runningIn(system).filter((e) => covers.has(this.w.stationMainline[e.station] as number));
    const stations = entries.map((e) => e.station);
    const set = { entries, stations, key: keyOfSet(stations), asOf: this.valveChanges };
    system.sets[place] = set;
    return set;
  }

  private trip(system: SystemState, place: number, tripped: SetTrip, now: EpochS): void {
    const { kind, measuredLpm: measured, limits, policy } = tripped;
    const set = (system.sets[place] as RunningSet).entries;
    const key = `${kind}:${system.judge.points[place]?.key}`;
    const retestKey = `${key}@${Math.min(...set.map((e) => e.start.at))}`;
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
          suspectLow(this, system, set[0] as Entry, measured, limits, now);
        else this.search(system, place, kind, set, key, now);
    }
  }

  // ---- retest --------------------------------------------------------------------------------------------------

  private beginRetest(system: SystemState, set: Entry[], now: EpochS): void {
    for (const e of set) this.night.pause(e, now, "limit");
    tripsAnew(system.judge);
    this.night.suspendedSystems.add(system.index);
    system.retestUntil = now + (this.policyOf(set).retestWaitS ?? 60);
    this.log(now, "retest", this.setSubject(set), "closed; runs again after the wait, only a second trip counts");
    this.dirty = true;
  }

  private continueRetest(system: SystemState, now: EpochS): void {
    if (system.retestUntil === null || now < system.retestUntil) return;
    system.retestUntil = null;
    this.night.suspendedSystems.delete(system.index);
    this.dirty = true;
  }

  // ---- find and isolate ----------------------------------------------------------------------------------------

  search(system: SystemState, point: number, kind: "high" | "low", set: Entry[], key: string, now: EpochS): void {
    const { site } = this.w;
    const policy = this.policyOf(set);
    system.searched.add(key);
    const ordered = this.night.inQueueOrder(set);
    const all = this.runningIn(system);
    const limits = (e: Entry): SetLimits => setLimits(policy, this.stationsOf([e]), this.allowance(system, now));
    const tests = ordered
      .filter((e) => limits(e).judged)
      .map((e) => ({
        stationId: site.stations[e.station]?.id as string,
        limits: limits(e),
        feed: this.feedOf(e.station),
      }));
    const needsPump = system.pocs.every(
      (p) =>
        site.pocs[p]?.devices.some((d) => d.kind === "pump") &&
        (this.w.pocSources[p] ?? []).every((s) => site.sources[s]?.staticPressureKpa === undefined),
    );
    const begun = beginSearch(
      {
        kind,
        tests,
        holdOffS: this.holdOffS(system),
        persistenceS: policy.persistenceS,
        ...(policy.judge ? { judge: policy.judge } : {}),
        closeWaitS: policy.closeWaitS ?? 30,
        restLimitLpm: restLimitLpm(this.w, system.pocs) + this.allowance(system, now),
        pumpTestS: !this.exact && needsPump && system.highInARow > 0 ? PUMP_TEST_S : null,
      },
      now,
    );
    for (const e of all) this.night.pause(e, now, "limit");
    tripsAnew(system.judge);
    this.night.suspendedSystems.add(system.index);
    system.search = {
      state: begun.state,
      entries: new Map(ordered.map((e) => [site.stations[e.station]?.id as string, e])),
      testing: null,
      valves: "open",
      pump: false,
      point,
    };
    this.log(
      now,
      "searchBegins",
      this.setSubject(set),
      kind === "high"
        ? "all closed, master valve shut; the mainline first, then each station alone"
        : "each station alone",
    );
    this.applySearch(system, begun.effects, now);
  }

  private continueSearch(system: SystemState, seen: Seen, now: EpochS): void {
    const search = system.search;
    if (!search) return;
    const readingLpm = pointLpm(system.points[search.point] as JudgePoint, seen) ?? 0;
    const step = advanceSearch(search.state, { type: "second", readingLpm }, now);
    search.state = step.state;
    this.applySearch(system, step.effects, now);
  }

  private applySearch(system: SystemState, effects: SearchEffect[], now: EpochS): void {
    const search = system.search;
    if (!search) return;
    for (const effect of effects) {
      switch (effect.type) {
        case "shutMasterValves":
          search.valves = "shut";
          break;
        case "openMasterValves":
          search.valves = "open";
          search.pump = effect.pump;
          break;
        case "pumpOff":
          search.pump = false;
          break;
        case "openStation": {
          const entry = search.entries.get(effect.stationId) as Entry;
          search.testing = { entry, since: now };
          this.log(now, "test", effect.stationId, "runs alone");
          break;
        }
        case "closeStation":
          this.endTest(system, now);
          this.log(now, "testEnds", effect.stationId, "");
          break;
        case "found":
          this.foundStation(system, effect.result, search.entries, now);
          break;
        case "mainlineLeaks":
          this.lockLeakingMainline([...search.entries.values()], effect.measuredLpm, now);
          break;
        case "unsure":
          unsureLow(this, system, effect.result, search.entries.get(effect.result.stationId) as Entry, now);
          break;
        case "allTripped":
          this.allTripped(system, effect.results, [...search.entries.values()], now);
          break;
        case "noneTripped": {
          const last =
            search.state.phase === "done" ? search.state.results[search.state.results.length - 1] : undefined;
          this.alarm(
            now,
            "notFoundAgain",
            this.mainlineSubject([...search.entries.values()]),
            last?.measuredLpm ?? 0,
            last?.expectedLpm ?? 0,
          );
          break;
        }
      }
    }
    if (system.search?.state.phase === "done") {
      system.search = null;
      if (!system.stopped) this.night.suspendedSystems.delete(system.index);
      this.dirty = true;
      this.log(
        now,
        "resumed",
        this.mainlineSubject([...search.entries.values()]),
        system.stopped ? "search over; the system stays shut" : "search over; the others finish what they had left",
      );
    }
  }

  private foundStation(system: SystemState, result: TestResult, entries: Map<string, Entry>, now: EpochS): void {
    const kind = system.search?.state.plan.kind === "low" ? "stationLow" : "stationHigh";
    if (kind === "stationHigh") system.highInARow++;
    if (kind === "stationHigh" && entries.size === 1 && system.highInARow > 1) {
      // The second high in a row with the mainline tight: its constant, before more is locked out.
      this.alarm(
        result.at,
        "sensor",
        system.points[system.search?.point ?? 0]?.sensors[0]?.id,
        result.measuredLpm,
        result.expectedLpm,
        "highInARow",
      );
      system.unjudged = true;
      return;
    }
    this.alarm(result.at, kind, result.stationId, result.measuredLpm, result.expectedLpm);
    this.lockStation(entries.get(result.stationId) as Entry, now);
  }

  private allTripped(system: SystemState, results: TestResult[], set: Entry[], now: EpochS): void {
    const last = results[results.length - 1] as TestResult;
    if (system.search?.state.plan.kind === "low" && results.length < set.length) {
      supplyOfFeed(
        this,
        system,
        set.filter((e) => results.some((r) => r.stationId === this.w.site.stations[e.station]?.id)),
        last,
        now,
      );
      return;
    }
    if (system.search?.state.plan.kind === "low") {
      supplyOrSensor(this, system, set, last.measuredLpm, last.expectedLpm, now);
      return;
    }
    const sensor = system.points[system.search?.point ?? 0]?.sensors[0];
    this.alarm(now, "sensor", sensor?.id, last.measuredLpm, last.expectedLpm, "notOnlyOne");
    system.unjudged = true;
  }

  private lockLeakingMainline(set: Entry[], measured: number, now: EpochS): void {
    const mains = [...new Set(set.map((e) => this.w.stationMainline[e.station] as number))];
    const shared = lowestCommonMainline(this.w, mains);
    const toLock = shared === null ? mains : [shared];
    const { site } = this.w;
    for (const m of toLock) this.alarm(now, "mainline", site.mainlines[m]?.id, measured, 0);
    const ownValve = (m: number): boolean => (site.mainlines[m]?.devices ?? []).some((d) => d.kind === "masterValve");
    const pocs = [...new Set(toLock.filter((m) => !ownValve(m)).flatMap((m) => this.w.pocsAbove[m] ?? []))];
    for (const m of toLock) {
      this.lock(site.mainlines[m]?.id, now);
      this.stopped.push({
        at: now,
        subjectId: site.mainlines[m]?.id as string,
        reason: "mainline leaks with every station closed",
      });
    }
    for (const p of pocs) this.lock(site.pocs[p]?.id, now);
    this.night.lockElements({ mainlines: toLock, pocs }, now);
    this.dirty = true;
  }
}
