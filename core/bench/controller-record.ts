import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { BenchNight } from "./bench-night.ts";
import type { Entry } from "../dispatch/queue.ts";
import { policyOfSet } from "../judge/policy-of.ts";
import type { Alarm, AlarmKind, AlarmNote } from "../judge/alarm.ts";
import { holdOffS, mainlineOfSet, subjectOfSet } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Policy, Station } from "../site-file/schema.ts";
import type { Commands, PlantSecond } from "./plant.ts";
import { type SystemState, systemStates } from "./system.ts";

export type BenchEventType =
  | "open"
  | "close"
  | "masterValveOpen"
  | "masterValveShut"
  | "pumpOn"
  | "pumpOff"
  | "trip"
  | "searchBegins"
  | "test"
  | "testEnds"
  | "lockedOut"
  | "alarm"
  | "stopped"
  | "suspect"
  | "retest"
  | "resumed"
  | "ordered"
  | "cleared"
  | "learnBegins"
  | "learnRests"
  | "learnRefuses"
  | "learnOpens"
  | "learned"
  | "learnLeaves"
  | "learnEnds";
/** `order`: the order it came of; `more`: figures that go with it. */
export type BenchEvent = {
  at: EpochS;
  type: BenchEventType;
  subjectId: string;
  reason: string;
  order?: string;
  more?: object;
};

/** What the bench's controller knows of its night and does to it: what it tells, locks out and stops, and who runs where. What judges and watches acts through this. */
export abstract class ControllerRecord {
  readonly events: BenchEvent[] = [];
  readonly alarms: Alarm[] = [];
  readonly lockouts: string[] = [];
  readonly stopped: { at: EpochS; subjectId: string; reason: string }[] = [];
  readonly testRuns: {
    station: number;
    program: number;
    start: EpochS;
    end: EpochS;
    cycle: number;
    flowLpm: number | null;
  }[] = [];
  readonly systems: SystemState[];
  readonly w: Waterworks;
  readonly night: BenchNight;
  /** Nothing fills, varies or needs time to make pressure. */
  readonly exact: boolean;
  /** Something was locked, stopped or freed: dispatch looks again this second. */
  dirty = false;
  lastSeen: PlantSecond | undefined;

  /** What is open and running from now on. */
  abstract get now(): Commands;
  constructor(w: Waterworks, night: BenchNight, exact: boolean) {
    this.exact = exact;
    this.w = w;
    this.night = night;
    this.systems = systemStates(w, ({ index, pocs }) => ({
      allowanceLpm: (at) => pocs.reduce((sum, p) => sum + night.capacity.reserveLpm(p, at), 0),
      running: () => this.runningIn({ index }).map((e) => e.station),
    }));
  }

  calls(poc: number, commands: Commands): boolean {
    return [...commands.stations].some((s) => (this.w.pocsAbove[nth(this.w.stationMainline, s)] ?? []).includes(poc));
  }

  /** The longest of the connected system's mains, joined by the running stations' own. */
  holdOffS(system: SystemState): number {
    const running = system.running();
    const testing = system.search?.testing;
    return holdOffS(this.w, system, testing ? [...running, testing.entry.station] : running);
  }

  runningIn(system: Pick<SystemState, "index">): Entry[] {
    return this.night.running.filter((e) => this.night.systemOf(e.station) === system.index);
  }

  anyRunsIn(system: SystemState): boolean {
    return this.night.running.some((e) => this.night.systemOf(e.station) === system.index);
  }

  stationsOf(entries: Entry[]): Station[] {
    return entries.map((e) => nth(this.w.site.stations, e.station));
  }

  policyOf(set: Entry[]): Policy {
    return policyOfSet(
      this.w,
      set.map((e) => e.station),
    );
  }

  setSubject(set: Entry[]): string {
    return subjectOfSet(
      this.w,
      set.map((e) => e.station),
    );
  }

  mainlineSubject(set: Entry[]): string {
    return mainlineOfSet(
      this.w,
      set.map((e) => e.station),
    );
  }

  /** The points of connection that can feed a station, as one key. */
  feedOf(station: number): string {
    return this.feedOfMain(nth(this.w.stationMainline, station));
  }

  feedOfMain(main: number): string {
    return (this.w.pocsAbove[main] ?? []).join(",");
  }

  lock(id: string | undefined, now: EpochS): void {
    if (id === undefined || this.lockouts.includes(id)) return;
    this.lockouts.push(id);
    this.log(now, "lockedOut", id, "");
  }

  lockStation(e: Entry, now: EpochS): void {
    const autoReturn = this.w.site.policy.autoReturnMin;
    this.lock(this.w.site.stations[e.station]?.id, now);
    if (autoReturn !== undefined && autoReturn !== null) {
      this.night.lockedStations.delete(e.station);
      if (e.state === "running") this.night.pause(e, now, "limit");
      this.night.restStation(e.station, autoReturn * 60, now);
    } else this.night.lockStation(e.station, now);
    this.dirty = true;
  }

  lockPocs(pocs: number[], now: EpochS): void {
    for (const p of pocs) this.lock(this.w.site.pocs[p]?.id, now);
    this.night.lockElements({ mainlines: [], pocs }, now);
    this.dirty = true;
  }

  stopSystem(system: SystemState, now: EpochS, reason: string, subjectId?: string): void {
    if (system.search) {
      this.endTest(system, now);
      system.search = null;
    }
    system.retest = null;
    system.stopped = true;
    this.night.stopSystem(system.index, now);
    const subject =
      subjectId ??
      this.w.site.pocs[system.pocs[0] ?? -1]?.id ??
      this.w.site.mainlines[system.mainlines[0] ?? -1]?.id ??
      "";
    this.stopped.push({ at: now, subjectId: subject, reason });
    this.log(now, "stopped", subject, reason);
    this.dirty = true;
  }

  alarm(
    at: EpochS,
    kind: AlarmKind,
    subjectId: string | undefined,
    measuredLpm: number,
    expectedLpm: number,
    note?: AlarmNote,
  ): void {
    this.alarms.push({ at, kind, subjectId: subjectId ?? "", measuredLpm, expectedLpm, ...(note ? { note } : {}) });
    this.log(at, "alarm", subjectId, kind);
  }

  log(
    at: EpochS,
    type: BenchEventType,
    subjectId: string | undefined,
    reason: string,
    more: Pick<BenchEvent, "order" | "more"> = {},
  ): void {
    this.events.push({ at, type, subjectId: subjectId ?? "", reason, ...more });
  }

  /** Frees what was locked out; a system that a lockout stopped may run again. */
  unlock(ids: readonly string[], now: EpochS, order: string): void {
    const places = (of: readonly { id: string }[]): number[] => of.flatMap((x, i) => (ids.includes(x.id) ? [i] : []));
    const { stations, mainlines, pocs } = this.w.site;
    const freed = { stations: places(stations), mainlines: places(mainlines), pocs: places(pocs) };
    this.night.unlock(freed);
    for (const id of ids) {
      const at = this.lockouts.indexOf(id);
      if (at >= 0) this.lockouts.splice(at, 1);
      this.log(now, "cleared", id, "", { order });
    }
    for (const system of this.systems)
      if (
        freed.pocs.some((p) => system.pocs.includes(p)) ||
        freed.mainlines.some((m) => system.mainlines.includes(m))
      ) {
        system.stopped = false;
        system.unjudged = false;
        system.searched.clear();
        this.night.suspendedSystems.delete(system.index);
      }
    this.dirty = true;
  }

  /** Someone says stop: everything that has begun ends, searches and retests too. */
  stopByHand(now: EpochS): void {
    for (const system of this.systems) {
      if (system.search) {
        this.endTest(system, now);
        system.search = null;
      }
      system.retest = null;
      if (!system.stopped) this.night.suspendedSystems.delete(system.index);
    }
    this.night.stopAll(now);
    this.dirty = true;
  }

  /** Ends the test of a station that runs alone, and credits it with what it ran. */
  endTest(system: SystemState, now: EpochS): void {
    const testing = system.search?.testing;
    if (!system.search || !testing) return;
    const { entry, since } = testing;
    if (now > since)
      this.testRuns.push({
        station: entry.station,
        program: entry.program,
        start: since,
        end: now,
        cycle: entry.cycle + 1,
        flowLpm: entry.flowLpm,
      });
    this.night.credit(entry, now - since, now);
    system.search.testing = null;
  }
}
