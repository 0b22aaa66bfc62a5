import type { EpochS } from "../calendar/wall-time.ts";
import type { Night } from "../dispatch/night.ts";
import type { Entry } from "../dispatch/queue.ts";
import { advanceSearch, beginSearch, type SearchEffect, type TestResult } from "../isolate/search.ts";
import { type SetLimits, setLimits } from "../limits/limits.ts";
import { policyOfSet } from "../limits/policy-of.ts";
import { setRatio } from "../limits/set-ratio.ts";
import { CALM, countBeyond, judgeReading } from "../limits/persistence.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../sensors/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { Policy, Response, Station } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import type { Commands, PlantSecond } from "./plant.ts";
import { commandsFor, pumpReason, valveReason } from "./valve-commands.ts";
import { type JudgePoint, lowestCommonMainline, restLimitLpm, type SystemState, systemStates } from "./system.ts";

export type AlarmKind = "stationHigh" | "stationLow" | "mainline" | "supply" | "burst" | "offSchedule" | "notFoundAgain" | "pumpNoFlow" | "sensor" | "pressureLow" | "pressureHigh";
export type BenchAlarm = { at: EpochS; kind: AlarmKind; subjectId: string; measuredLpm: number; expectedLpm: number; note?: AlarmNote; /** What a pressure sensor read, and its limit. */ kPa?: { measured: number; limit: number } };
export type AlarmNote = "highInARow" | "searchedBefore" | "sensorBySupply" | "notOnlyOne" | "stopStation" | "stopAll" | "controllerSilent" | "onlyTold";
export type BenchEventType =
  | "open" | "close" | "masterValveOpen" | "masterValveShut" | "pumpOn" | "pumpOff" | "trip" | "searchBegins" | "test" | "testEnds"
  | "lockedOut" | "alarm" | "stopped" | "suspect" | "retest" | "resumed";
export type BenchEvent = { at: EpochS; type: BenchEventType; subjectId: string; reason: string };

const PUMP_DRY_S = 60;
const PUMP_TEST_S = 30;

/**
 * The controller on the bench: dispatches the night and obeys limits, find and isolate, burst, off-schedule and pump rules
 * exactly as configured (handbook 8; site-file: judging, isolating, where rules meet). Driven one second at a time.
 */
export class BenchController {
  readonly events: BenchEvent[] = [];
  readonly alarms: BenchAlarm[] = [];
  readonly lockouts: string[] = [];
  readonly stopped: { at: EpochS; subjectId: string; reason: string }[] = [];
  readonly testRuns: { station: number; program: number; start: EpochS; end: EpochS; cycle: number; flowLpm: number | null }[] = [];
  readonly systems: SystemState[];
  private commands: Commands;
  private lastRunning = new Set<Entry>();
  private opensBefore: boolean[];
  private readonly w: Waterworks;
  private readonly night: Night;
  private readonly exact: boolean;

  constructor(w: Waterworks, night: Night, exact: boolean) {
    this.w = w;
    this.night = night;
    this.exact = exact;
    this.systems = systemStates(w);
    this.opensBefore = w.site.pocs.map(() => false);
    this.commands = this.wanted(Number.NEGATIVE_INFINITY);
  }

  /** What is open and running from now on. */
  get now(): Commands {
    return this.commands;
  }

  get busy(): boolean {
    return this.systems.some((s) => s.search !== null || s.retestUntil !== null);
  }

  /** Nothing is being counted, tested or waited for: only an event of the night or a change on the site makes it act. */
  get quiet(): boolean {
    return !this.busy && !this.dirty && this.systems.every((s) => s.suspect === null && s.offSchedule.count === 0 && s.pumps.every((p) => p.dryS === 0) && [...s.burst.values()].every((b) => b.count === 0) && s.points.every((p) => p.high.count === 0 && p.low.count === 0) && s.pressures.every((p) => p.low.now.count === 0 && p.high.now.count === 0));
  }

  /** Before the first second: what a normally open valve and hand-watering hours ask for. */
  begin(t: EpochS): void {
    this.night.step(t);
    this.applyValves(t);
  }

  /** The second that ended at `now` is judged; then the night goes on. */
  second(now: EpochS, seen: PlantSecond): void {
    this.lastSeen = seen;
    for (const system of this.systems) {
      this.watchPumps(system, seen, now);
      if (!system.unjudged) this.watchBurst(system, seen, now);
      if (system.search) this.continueSearch(system, seen, now);
      else if (system.retestUntil !== null) this.continueRetest(system, now);
      else if (!system.unjudged) {
        for (const point of system.points) if (!system.search && system.retestUntil === null) this.judge(system, point, seen, now);
        this.watchOffSchedule(system, seen, now);
        this.watchPressure(system, seen, now);
      }
      this.settleSuspect(system, now);
    }
    if (!this.dirty && !this.busy && this.nextDue !== null && now < this.nextDue) return;
    this.night.step(now);
    this.dirty = false;
    this.applyValves(now);
    this.nextDue = this.nextChange(now);
  }

  /** Next instant at which dispatch or what is reserved can change by itself; Infinity when nothing will. */
  nextChange(now: EpochS): EpochS {
    return Math.min(this.night.nextEventAt(now) ?? Number.POSITIVE_INFINITY, this.night.capacity.nextChange(now) ?? Number.POSITIVE_INFINITY);
  }

  private nextDue: EpochS | null = null;

  private dirty = false;
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
    for (const e of this.lastRunning) if (!this.night.running.includes(e)) this.log(now, "close", site.stations[e.station]?.id, this.closeReason(e, now));
    for (const e of this.night.running) if (!this.lastRunning.has(e)) this.log(now, "open", site.stations[e.station]?.id, `${site.programs[e.program]?.name ?? ""}, cycle ${e.cycle + 1}`);
    this.lastRunning = new Set(this.night.running);
    for (const s of new Set([...before.stations, ...after.stations]))
      if (before.stations.has(s) !== after.stations.has(s)) changed.add(this.night.systemOf(s));
    for (const [i, poc] of site.pocs.entries()) {
      const valve = poc.devices.find((d) => d.kind === "masterValve");
      if (valve && before.pocValve[i] !== after.pocValve[i]) {
        changed.add(this.w.systemOfPoc[i] as number);
        this.log(now, after.pocValve[i] ? "masterValveOpen" : "masterValveShut", valve.id, valveReason(this.systems[this.w.systemOfPoc[i] as number], after.pocValve[i] as boolean, { locked: this.night.capacity.lockedPocs.has(i), byHand: this.night.capacity.reserveLpm(i, now) > 0, called: this.calls(i, after) }));
        if (after.pocValve[i] && !this.opensBefore[i]) firstOpening.add(this.w.systemOfPoc[i] as number);
        if (after.pocValve[i]) this.opensBefore[i] = true;
      }
      const pump = poc.devices.find((d) => d.kind === "pump");
      if (pump && before.pump[i] !== after.pump[i]) this.log(now, after.pump[i] ? "pumpOn" : "pumpOff", pump.id, pumpReason(this.systems[this.w.systemOfPoc[i] as number], after.pump[i] as boolean, this.night.capacity.lockedPocs.has(i)));
    }
    for (const [i, main] of site.mainlines.entries()) {
      const valve = main.devices?.find((d) => d.kind === "masterValve");
      if (valve && before.mainlineValve[i] !== after.mainlineValve[i]) {
        changed.add(this.w.systemOfMainline[i] as number);
        this.log(now, after.mainlineValve[i] ? "masterValveOpen" : "masterValveShut", valve.id, valveReason(this.systems[this.w.systemOfMainline[i] as number], after.mainlineValve[i] as boolean, { locked: this.night.capacity.lockedMainlines.has(i), byHand: false, called: true }));
      }
    }
    this.commands = after;
    this.valveChanges++;
    for (const index of changed) {
      const system = this.systems[index] as SystemState;
      const fill = !this.exact && firstOpening.has(index) ? Math.max(0, ...system.mainlines.map((m) => site.mainlines[m]?.fillS ?? 120)) : 0;
      system.holdUntil = Math.max(system.holdUntil, now + Math.max(this.holdOffS(system), fill));
      for (const point of system.points) {
        point.high = { count: 0, told: point.high.told };
        point.low = { count: 0, told: point.low.told };
      }
    }
  }

  private calls(poc: number, commands: Commands): boolean {
    return [...commands.stations].some((s) => (this.w.pocsAbove[this.w.stationMainline[s] as number] ?? []).includes(poc));
  }

  private closeReason(e: Entry, now: EpochS): string {
    const last = [...this.night.runs].reverse().find((r) => r.station === e.station && r.end === now);
    return last?.ended ?? "";
  }

  /** The longest of the connected system's mains, joined by the running stations' own. */
  private holdOffS(system: SystemState): number {
    const own = this.runningIn(system).map((e) => this.w.site.stations[e.station]?.holdOffS ?? 0);
    const testing = system.search?.testing ? (this.w.site.stations[system.search.testing.entry.station]?.holdOffS ?? 0) : 0;
    return Math.max(testing, ...own, ...system.mainlines.map((m) => this.w.site.mainlines[m]?.holdOffS ?? 60));
  }

  private runningIn(system: SystemState): Entry[] {
    return this.night.running.filter((e) => this.night.systemOf(e.station) === system.index);
  }

  private stationsOf(entries: Entry[]): Station[] {
    return entries.map((e) => this.w.site.stations[e.station] as Station);
  }

  private policyOf(set: Entry[]): Policy {
    return policyOfSet(this.w, set.map((e) => e.station));
  }

  private reading(point: JudgePoint, seen: PlantSecond): number {
    if (point.mainline !== null) return seen.mainlineReading[point.mainline] ?? 0;
    return point.pocs.reduce((sum, p) => sum + (seen.pocReading[p] ?? 0), 0);
  }

  private allowance(system: SystemState, at: EpochS): number {
    return system.pocs.reduce((sum, p) => sum + this.night.capacity.reserveLpm(p, at), 0);
  }

  // ---- judging -------------------------------------------------------------------------------------------------

  private judge(system: SystemState, point: JudgePoint, seen: PlantSecond, now: EpochS): void {
    if (point.setAsOf !== this.valveChanges || this.dirty) {
      point.setAsOf = this.valveChanges;
      point.set = this.runningIn(system).filter((e) => point.covers.has(this.w.stationMainline[e.station] as number));
      const key = point.set.map((e) => e.station).sort((a, b) => a - b).join(",");
      if (key !== point.setKey) {
        point.setKey = key;
        point.high = CALM;
        point.low = CALM;
      }
    }
    const { set } = point;
    if (set.length === 0 || now - 1 < system.holdUntil) return;
    const policy = this.policyOf(set);
    const limits = setLimits(policy, this.stationsOf(set), this.allowance(system, now - 1), setRatio(this.w.site, this.stationsOf(set)));
    if (!limits.judged) return;
    const measured = this.reading(point, seen);
    const high = judgeReading(point.high, measured - limits.highLpm, policy);
    const low = judgeReading(point.low, limits.lowLpm - measured, policy);
    point.high = high.state;
    point.low = low.state;
    if (high.trips) this.trip(system, point, "high", set, measured, limits, now);
    else if (low.trips) this.trip(system, point, "low", set, measured, limits, now);
    else if (now >= system.holdUntil + policy.persistenceS && !low.beyond && point.low.count === 0) this.provedRight(system, set, now);
  }

  private trip(system: SystemState, point: JudgePoint, kind: "high" | "low", set: Entry[], measured: number, limits: SetLimits, now: EpochS): void {
    const policy = this.policyOf(set);
    const key = `${kind}:${point.setKey}`;
    const retestKey = `${key}@${[...new Set(set.map((e) => e.start.at))].join(",")}`;
    const response: Response = kind === "high" ? policy.highResponse : policy.lowResponse;
    this.log(now, "trip", this.setSubject(set), `${kind}: ${showQuantity(measured, "flow", this.w.site.site.units, 1)} against ${showQuantity(kind === "high" ? limits.highLpm : limits.lowLpm, "flow", this.w.site.site.units, 1)}`);
    if (policy.retest && !system.retested.has(retestKey)) {
      system.retested.add(retestKey);
      this.beginRetest(system, set, now);
      return;
    }
    const alarmKind: AlarmKind = kind === "high" ? "stationHigh" : "stationLow";
    if (system.searched.has(key)) {
      this.alarm(now, alarmKind, this.setSubject(set), measured, limits.expectedLpm, "searchedBefore");
      return;
    }
    switch (response) {
      case "notify":
        this.alarm(now, alarmKind, this.setSubject(set), measured, limits.expectedLpm);
        return;
      case "stopStation":
        for (const e of set) {
          this.alarm(now, alarmKind, this.w.site.stations[e.station]?.id, measured, limits.expectedLpm, "stopStation");
          this.lockStation(e, now);
        }
        return;
      case "stopAll":
        this.alarm(now, alarmKind, this.setSubject(set), measured, limits.expectedLpm, "stopAll");
        this.stopSystem(system, now, `${alarmKind}: stop all`);
        this.lockPocs(system.pocs, now);
        return;
      case "findAndIsolate":
        if (kind === "low" && this.runningIn(system).length === 1) this.suspectLow(system, set[0] as Entry, measured, limits, now);
        else this.search(system, point, kind, set, key, now);
    }
  }

  /** The station; or, for several together, the mainline that all of them hang on. */
  private setSubject(set: Entry[]): string {
    if (set.length === 1) return this.w.site.stations[(set[0] as Entry).station]?.id as string;
    return this.mainlineSubject(set);
  }

  private mainlineSubject(set: Entry[]): string {
    const mains = set.map((e) => this.w.stationMainline[e.station] as number);
    return this.w.site.mainlines[lowestCommonMainline(this.w, mains) ?? (mains[0] as number)]?.id as string;
  }

  // ---- one at a time: suspects ---------------------------------------------------------------------------------

  private suspectLow(system: SystemState, entry: Entry, measured: number, limits: SetLimits, now: EpochS): void {
    if (system.suspect) {
      this.supplyOrSensor(system, [entry], measured, limits.expectedLpm, now);
      return;
    }
    this.night.pause(entry, now, "limit");
    this.becomeSuspect(system, entry, measured, limits.expectedLpm, now);
  }

  private becomeSuspect(system: SystemState, entry: Entry, measuredLpm: number, expectedLpm: number, now: EpochS): void {
    this.night.lockedStations.add(entry.station);
    system.suspect = { entry, measuredLpm, expectedLpm };
    this.dirty = true;
    this.log(now, "suspect", this.w.site.stations[entry.station]?.id, "low; the next station of the same supply tells whether it is this one or the supply");
  }

  /** A set ran hold-off and persistence and reads inside: where one of it has the suspect's feed, the supply is right and the suspect was to blame. */
  private provedRight(system: SystemState, set: Entry[], now: EpochS): void {
    system.highInARow = 0;
    const { suspect } = system;
    if (suspect && !set.includes(suspect.entry) && set.some((e) => this.feedOf(e.station) === this.feedOf(suspect.entry.station))) this.lockSuspect(system, now);
  }

  /** The points of connection that can feed a station, as one key. */
  private feedOf(station: number): string {
    return this.feedOfMain(this.w.stationMainline[station] as number);
  }

  private feedOfMain(main: number): string {
    return (this.w.pocsAbove[main] ?? []).join(",");
  }

  /** Tripped low with no other of its feed beside it: like one that runs alone, the next of that feed tells whether it is this one or the supply. */
  private unsureLow(system: SystemState, result: TestResult, entry: Entry, now: EpochS): void {
    const { suspect } = system;
    if (suspect && this.feedOf(suspect.entry.station) === this.feedOf(entry.station)) {
      this.supplyOfFeed(system, [suspect.entry, entry], result, now);
      return;
    }
    if (suspect) {
      this.alarm(result.at, "stationLow", result.stationId, result.measuredLpm, result.expectedLpm);
      this.lockStation(entry, now);
      return;
    }
    this.becomeSuspect(system, entry, result.measuredLpm, result.expectedLpm, now);
  }

  /** All of one feed are low while others of the system are right: that supply, and the mains that hang on it alone stop. */
  private supplyOfFeed(system: SystemState, entries: Entry[], result: TestResult, now: EpochS): void {
    const feed = this.feedOf((entries[0] as Entry).station);
    const subject = this.mainlineSubject(entries);
    this.alarm(result.at, "supply", subject, result.measuredLpm, result.expectedLpm);
    if (system.suspect && this.feedOf(system.suspect.entry.station) === feed) this.freeSuspect(system, now);
    const mains = new Set(system.mainlines.filter((m) => this.feedOfMain(m) === feed));
    this.night.stopMains(mains, now);
    this.stopped.push({ at: now, subjectId: subject, reason: "supply: everything on this feed is low" });
    this.log(now, "stopped", subject, "supply: everything on this feed is low");
    this.dirty = true;
  }

  private settleSuspect(system: SystemState, now: EpochS): void {
    if (system.suspect && !system.stopped && !system.search && this.runningIn(system).length === 0 && !this.night.moreToCome(system.index)) this.lockSuspect(system, now);
  }

  private lockSuspect(system: SystemState, now: EpochS): void {
    const suspect = system.suspect;
    if (!suspect) return;
    system.suspect = null;
    this.alarm(now, "stationLow", this.w.site.stations[suspect.entry.station]?.id, suspect.measuredLpm, suspect.expectedLpm);
    this.lockStation(suspect.entry, now);
  }

  /** Everything is low: no station is to blame. Supply, or the sensor where a pressure sensor shows that pressure is there. */
  private supplyOrSensor(system: SystemState, set: Entry[], measured: number, expected: number, now: EpochS): void {
    const sensors = system.pocs.flatMap((p) => pocSensing(this.w, p).sensors.map((sensor) => ({ p, sensor })));
    const minimum = sensors.reduce((sum, { sensor }) => sum + (sensorRange(sensor).minLpm ?? 0), 0);
    const pressed = sensors.find(({ p }) =>
      (this.w.site.pocs[p]?.devices ?? []).some((d) => d.kind === "pressureSensor" && (this.lastSeen?.pressureKpa[p] ?? -1) >= (d.lowKpa ?? 0)),
    );
    if (measured < Math.max(minimum, 1e-6) && pressed) {
      this.alarm(now, "sensor", pressed.sensor.id, measured, expected, "sensorBySupply");
      this.freeSuspect(system, now);
      system.unjudged = true;
      return;
    }
    const subject = this.mainlineSubject(system.suspect ? [system.suspect.entry, ...set] : set);
    this.alarm(now, "supply", subject, measured, expected);
    system.suspect = null;
    this.stopSystem(system, now, "supply: closed or empty supply, or failed pump; or a dead sensor", subject);
  }

  private lastSeen: PlantSecond | undefined;

  private freeSuspect(system: SystemState, now: EpochS): void {
    if (!system.suspect) return;
    this.night.lockedStations.delete(system.suspect.entry.station);
    system.suspect.entry.readyAt = now;
    system.suspect = null;
    this.dirty = true;
  }

  // ---- retest --------------------------------------------------------------------------------------------------

  private beginRetest(system: SystemState, set: Entry[], now: EpochS): void {
    for (const e of set) this.night.pause(e, now, "limit");
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

  private search(system: SystemState, point: JudgePoint, kind: "high" | "low", set: Entry[], key: string, now: EpochS): void {
    const { site } = this.w;
    const policy = this.policyOf(set);
    system.searched.add(key);
    const ordered = this.night.inQueueOrder(set);
    const all = this.runningIn(system);
    const limits = (e: Entry): SetLimits => setLimits(policy, this.stationsOf([e]), this.allowance(system, now));
    const tests = ordered.filter((e) => limits(e).judged).map((e) => ({ stationId: site.stations[e.station]?.id as string, limits: limits(e), feed: this.feedOf(e.station) }));
    const needsPump = system.pocs.every((p) => site.pocs[p]?.devices.some((d) => d.kind === "pump") && (this.w.pocSources[p] ?? []).every((s) => site.sources[s]?.staticPressureKpa === undefined));
    const begun = beginSearch(
      {
        kind, tests, holdOffS: this.holdOffS(system), persistenceS: policy.persistenceS, ...(policy.judge ? { judge: policy.judge } : {}), closeWaitS: policy.closeWaitS ?? 30,
        restLimitLpm: restLimitLpm(this.w, system.pocs) + this.allowance(system, now),
        pumpTestS: !this.exact && needsPump && system.highInARow > 0 ? PUMP_TEST_S : null,
      },
      now,
    );
    for (const e of all) this.night.pause(e, now, "limit");
    this.night.suspendedSystems.add(system.index);
    system.search = { state: begun.state, entries: new Map(ordered.map((e) => [site.stations[e.station]?.id as string, e])), testing: null, valves: "open", pump: false, key };
    this.searchPoint.set(system.index, point);
    this.log(now, "searchBegins", this.setSubject(set), kind === "high" ? "all closed, master valve shut; the mainline first, then each station alone" : "each station alone");
    this.applySearch(system, begun.effects, now);
  }

  private readonly searchPoint = new Map<number, JudgePoint>();

  private continueSearch(system: SystemState, seen: PlantSecond, now: EpochS): void {
    const search = system.search;
    const point = this.searchPoint.get(system.index);
    if (!search || !point) return;
    const step = advanceSearch(search.state, { type: "second", readingLpm: this.reading(point, seen) }, now);
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
          this.unsureLow(system, effect.result, search.entries.get(effect.result.stationId) as Entry, now);
          break;
        case "allTripped":
          this.allTripped(system, effect.results, [...search.entries.values()], now);
          break;
        case "noneTripped": {
          const last = search.state.phase === "done" ? search.state.results[search.state.results.length - 1] : undefined;
          this.alarm(now, "notFoundAgain", this.mainlineSubject([...search.entries.values()]), last?.measuredLpm ?? 0, last?.expectedLpm ?? 0);
          break;
        }
      }
    }
    if (system.search?.state.phase === "done") {
      system.search = null;
      if (!system.stopped) this.night.suspendedSystems.delete(system.index);
      this.dirty = true;
      this.log(now, "resumed", this.mainlineSubject([...search.entries.values()]), system.stopped ? "search over; the system stays shut" : "search over; the others finish what they had left");
    }
  }

  private endTest(system: SystemState, now: EpochS): void {
    const testing = system.search?.testing;
    if (!system.search || !testing) return;
    const { entry, since } = testing;
    if (now > since) this.testRuns.push({ station: entry.station, program: entry.program, start: since, end: now, cycle: entry.cycle + 1, flowLpm: entry.flowLpm });
    this.night.credit(entry, now - since, now);
    system.search.testing = null;
  }

  private foundStation(system: SystemState, result: TestResult, entries: Map<string, Entry>, now: EpochS): void {
    const kind = system.search?.state.plan.kind === "low" ? "stationLow" : "stationHigh";
    if (kind === "stationHigh") system.highInARow++;
    if (kind === "stationHigh" && entries.size === 1 && system.highInARow > 1) {
      // The second high in a row with the mainline tight: its constant, before more is locked out.
      this.alarm(result.at, "sensor", this.searchPoint.get(system.index)?.sensors[0]?.id, result.measuredLpm, result.expectedLpm, "highInARow");
      system.unjudged = true;
      return;
    }
    this.alarm(result.at, kind, result.stationId, result.measuredLpm, result.expectedLpm);
    this.lockStation(entries.get(result.stationId) as Entry, now);
  }

  private allTripped(system: SystemState, results: TestResult[], set: Entry[], now: EpochS): void {
    const last = results[results.length - 1] as TestResult;
    if (system.search?.state.plan.kind === "low" && results.length < set.length) {
      this.supplyOfFeed(system, set.filter((e) => results.some((r) => r.stationId === this.w.site.stations[e.station]?.id)), last, now);
      return;
    }
    if (system.search?.state.plan.kind === "low") {
      this.supplyOrSensor(system, set, last.measuredLpm, last.expectedLpm, now);
      return;
    }
    const sensor = this.searchPoint.get(system.index)?.sensors[0];
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
      this.stopped.push({ at: now, subjectId: site.mainlines[m]?.id as string, reason: "mainline leaks with every station closed" });
    }
    for (const p of pocs) this.lock(site.pocs[p]?.id, now);
    this.night.lockElements({ mainlines: toLock, pocs }, now);
    this.dirty = true;
  }

  // ---- burst, off-schedule, pumps ------------------------------------------------------------------------------

  private watchBurst(system: SystemState, seen: PlantSecond, now: EpochS): void {
    for (const p of system.pocs) {
      const poc = this.w.site.pocs[p];
      const reading = seen.pocReading[p];
      if (poc?.burstLimitLpm === undefined || reading === null || reading === undefined) continue;
      const { state, trips } = countBeyond(system.burst.get(p) ?? CALM, reading > poc.burstLimitLpm + 1e-6, poc.burstPersistenceS ?? 15);
      system.burst.set(p, state);
      if (!trips) continue;
      const set = this.runningIn(system);
      const expected = setLimits(this.w.site.policy, this.stationsOf(set)).expectedLpm;
      this.alarm(now, "burst", poc.id, reading, expected);
      const response = poc.burstResponse ?? "stopAll";
      if (response === "notify") continue;
      const point = system.points[0];
      if (response === "findAndIsolate" && set.length > 0 && !system.search && point && !system.searched.has(`high:${point.setKey}`)) this.search(system, point, "high", set, `high:${point.setKey}`, now);
      else if (response === "stopStation" && set.length > 0) for (const e of set) this.lockStation(e, now);
      else {
        this.stopSystem(system, now, "burst: stop all");
        this.lockPocs(system.pocs, now);
      }
    }
  }

  private watchOffSchedule(system: SystemState, seen: PlantSecond, now: EpochS): void {
    const { site } = this.w;
    const withSensor = system.pocs.filter((p) => pocSensing(this.w, p).sensors.length > 0);
    const idle = withSensor.length > 0 && !system.search && system.retestUntil === null && this.runningIn(system).length === 0;
    if (!idle || now - 1 < system.holdUntil) {
      system.offSchedule = CALM;
      return;
    }
    const reading = withSensor.reduce((sum, p) => sum + (seen.pocReading[p] ?? 0), 0);
    const limit = restLimitLpm(this.w, withSensor) + this.allowance(system, now - 1);
    const persistence = Math.max(...withSensor.map((p) => site.pocs[p]?.offSchedulePersistenceS ?? 120));
    const { state, trips } = countBeyond(system.offSchedule, reading > limit + 1e-6, persistence);
    system.offSchedule = state;
    if (!trips) return;
    const most = withSensor.reduce((a, b) => ((seen.pocReading[b] ?? 0) > (seen.pocReading[a] ?? 0) ? b : a));
    this.alarm(now, "offSchedule", site.pocs[most]?.id, reading, 0);
    if ((site.pocs[most]?.offScheduleResponse ?? "notify") === "notify") return;
    this.stopSystem(system, now, "off-schedule flow: shut");
    this.lockPocs(system.pocs, now);
  }

  /** Pressure limits while stations run, after hold-off: as long as a flow limit, with the same response, but no station is to blame for pressure. */
  private watchPressure(system: SystemState, seen: PlantSecond, now: EpochS): void {
    const set = this.runningIn(system);
    const judged = set.length > 0 && now - 1 >= system.holdUntil;
    for (const { poc, device, low, high } of system.pressures) {
      const measured = seen.pressureKpa[poc] ?? 0;
      const policy = this.policyOf(set);
      for (const [state, limit, beyond, kind, response] of [
        [low, device.lowKpa, measured < (device.lowKpa ?? 0), "pressureLow", policy.lowResponse], [high, device.highKpa, measured > (device.highKpa ?? 0), "pressureHigh", policy.highResponse],
      ] as const) {
        if (limit === undefined) continue;
        const next = judged && this.commands.pocValve[poc] ? countBeyond(state.now, beyond, policy.persistenceS) : { state: { count: 0, told: state.now.told }, trips: false };
        state.now = next.state;
        if (!next.trips) continue;
        this.alarms.push({ at: now, kind, subjectId: device.id, measuredLpm: seen.pocReading[poc] ?? 0, expectedLpm: setLimits(policy, this.stationsOf(set)).expectedLpm, kPa: { measured, limit } });
        this.log(now, "alarm", device.id, kind);
        if (response === "notify") continue;
        this.stopSystem(system, now, kind === "pressureLow" ? "pressure under its limit" : "pressure over its limit");
        if (response === "stopAll") this.lockPocs(system.pocs, now);
        return;
      }
    }
  }

  /** A pump running against no flow for 60 s is stopped at once; hold-off never suspends that. */
  private watchPumps(system: SystemState, seen: PlantSecond, now: EpochS): void {
    for (const pump of system.pumps) {
      const sensor = pocSensing(this.w, pump.poc).sensors[0];
      const reading = seen.pocReading[pump.poc];
      const noFlow = sensor !== undefined && reading !== null && reading !== undefined && reading < Math.max(1e-6, sensorRange(sensor).minLpm ?? 0);
      const judged = this.commands.pump[pump.poc] === true && noFlow && !system.unjudged && !(system.search?.pump ?? false);
      pump.dryS = judged ? pump.dryS + 1 : 0;
      if (pump.dryS < PUMP_DRY_S) continue;
      pump.dryS = 0;
      const expected = setLimits(this.w.site.policy, this.stationsOf(this.runningIn(system))).expectedLpm;
      this.alarm(now, "pumpNoFlow", pump.device.id, reading ?? 0, expected);
      this.stopSystem(system, now, "pump ran 60 s against no flow");
      this.lockPocs([pump.poc], now);
    }
  }

  // ---- locking -------------------------------------------------------------------------------------------------

  private lock(id: string | undefined, now: EpochS): void {
    if (id === undefined || this.lockouts.includes(id)) return;
    this.lockouts.push(id);
    this.log(now, "lockedOut", id, "");
  }

  private lockStation(e: Entry, now: EpochS): void {
    const autoReturn = this.w.site.policy.autoReturnMin;
    this.lock(this.w.site.stations[e.station]?.id, now);
    if (autoReturn !== undefined && autoReturn !== null) {
      this.night.lockedStations.delete(e.station);
      if (e.state === "running") this.night.pause(e, now, "limit");
      this.night.restStation(e.station, autoReturn * 60, now);
    } else this.night.lockStation(e.station, now);
    this.dirty = true;
  }

  private lockPocs(pocs: number[], now: EpochS): void {
    for (const p of pocs) this.lock(this.w.site.pocs[p]?.id, now);
    this.night.lockElements({ mainlines: [], pocs }, now);
    this.dirty = true;
  }

  private stopSystem(system: SystemState, now: EpochS, reason: string, subjectId?: string): void {
    if (system.search) {
      this.endTest(system, now);
      system.search = null;
    }
    system.retestUntil = null;
    system.stopped = true;
    this.night.stopSystem(system.index, now);
    const subject = subjectId ?? this.w.site.pocs[system.pocs[0] ?? -1]?.id ?? this.w.site.mainlines[system.mainlines[0] ?? -1]?.id ?? "";
    this.stopped.push({ at: now, subjectId: subject, reason });
    this.log(now, "stopped", subject, reason);
    this.dirty = true;
  }

  private alarm(at: EpochS, kind: AlarmKind, subjectId: string | undefined, measuredLpm: number, expectedLpm: number, note?: AlarmNote): void {
    this.alarms.push({ at, kind, subjectId: subjectId ?? "", measuredLpm, expectedLpm, ...(note ? { note } : {}) });
    this.log(at, "alarm", subjectId, kind);
  }

  private log(at: EpochS, type: BenchEventType, subjectId: string | undefined, reason: string): void {
    this.events.push({ at, type, subjectId: subjectId ?? "", reason });
  }
}
