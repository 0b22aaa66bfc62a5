import { got, nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Entry } from "../dispatch/queue.ts";
import { advanceSearch, beginSearch, type SearchEffect, type TestResult } from "../isolate/search.ts";
import { pointLpm, pumpsAnew, type Seen, tripsAnew } from "../judge/judge.ts";
import { type SetLimits, setLimits } from "../judge/set-limits.ts";
import { lowestCommonMainline, restLimitLpm } from "../judge/system.ts";
import type { ControllerRecord } from "./controller-record.ts";
import { supplyOfFeed, supplyOrSensor, unsureLow } from "./suspects.ts";
import type { SystemState } from "./system.ts";

/** A main that makes no pressure without its pump is tested with it running so long, s. */
const PUMP_TEST_S = 30;

/** Begins to find and isolate among a set: all closed, the mainline first, then each station alone (site-file#isolating). */
export function beginFind(
  record: ControllerRecord,
  system: SystemState,
  point: number,
  kind: "high" | "low",
  set: Entry[],
  key: string,
  now: EpochS,
): void {
  const { site } = record.w;
  const policy = record.policyOf(set);
  system.searched.add(key);
  const ordered = record.night.inQueueOrder(set);
  const all = record.runningIn(system);
  const limits = (e: Entry): SetLimits => setLimits(policy, record.stationsOf([e]), system.allowanceLpm(now));
  const tests = ordered
    .filter((e) => limits(e).judged)
    .map((e) => ({
      stationId: nth(site.stations, e.station).id,
      limits: limits(e),
      feed: record.feedOf(e.station),
    }));
  const needsPump = system.pocs.every(
    (p) =>
      site.pocs[p]?.devices.some((d) => d.kind === "pump") &&
      (record.w.pocSources[p] ?? []).every((s) => site.sources[s]?.staticPressureKpa === undefined),
  );
  const begun = beginSearch(
    {
      kind,
      tests,
      holdOffS: record.holdOffS(system),
      persistenceS: policy.persistenceS,
      ...(policy.judge ? { judge: policy.judge } : {}),
      closeWaitS: policy.closeWaitS ?? 30,
      restLimitLpm: restLimitLpm(record.w, system.pocs) + system.allowanceLpm(now),
      pumpTestS: !record.exact && needsPump && system.highInARow > 0 ? PUMP_TEST_S : null,
    },
    now,
  );
  for (const e of all) record.night.pause(e, now, "limit");
  tripsAnew(system.judge);
  record.night.suspendedSystems.add(system.index);
  system.search = {
    state: begun.state,
    entries: new Map(ordered.map((e) => [nth(site.stations, e.station).id, e])),
    testing: null,
    valves: "open",
    pump: false,
    point,
    dry: null,
  };
  record.log(
    now,
    "searchBegins",
    record.setSubject(set),
    kind === "high"
      ? "all closed, master valve shut; the mainline first, then each station alone"
      : "each station alone",
  );
  applySearch(record, system, begun.effects, now);
}

/** One more second of a search. */
export function continueFind(record: ControllerRecord, system: SystemState, seen: Seen, now: EpochS): void {
  const search = system.search;
  if (!search) return;
  const readingLpm = pointLpm(nth(system.points, search.point), seen) ?? 0;
  const step = advanceSearch(search.state, { type: "second", readingLpm }, now);
  search.state = step.state;
  applySearch(record, system, step.effects, now);
}

/** In the test that goes on a pump had no flow for its 60 s: the test ends as low, its pump stops, the search goes on (site-file#where-rules-meet). */
export function endDryTest(
  record: ControllerRecord,
  system: SystemState,
  dry: { poc: number; deviceId: string; measuredLpm: number },
  now: EpochS,
): void {
  const search = system.search;
  if (!search) return;
  search.dry = { poc: dry.poc, deviceId: dry.deviceId };
  const step = advanceSearch(search.state, { type: "pumpDry", readingLpm: dry.measuredLpm }, now);
  search.state = step.state;
  applySearch(record, system, step.effects, now);
}

function applySearch(record: ControllerRecord, system: SystemState, effects: SearchEffect[], now: EpochS): void {
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
        const entry = got(search.entries, effect.stationId);
        search.testing = { entry, since: now };
        pumpsAnew(system.judge);
        record.log(now, "test", effect.stationId, "runs alone");
        break;
      }
      case "closeStation":
        record.endTest(system, now);
        record.log(now, "testEnds", effect.stationId, "");
        break;
      case "found":
        foundStation(record, system, effect.result, search.entries, now);
        break;
      case "mainlineLeaks":
        lockLeakingMainline(record, [...search.entries.values()], effect.measuredLpm, now);
        break;
      case "unsure":
        unsureLow(record, system, effect.result, got(search.entries, effect.result.stationId), now);
        break;
      case "allTripped":
        allTripped(record, system, effect.results, [...search.entries.values()], now);
        break;
      case "allDry":
        pumpNeverPumped(record, system, effect.result, now);
        break;
      case "noneTripped": {
        const last = search.state.phase === "done" ? search.state.results[search.state.results.length - 1] : undefined;
        record.alarm(
          now,
          "notFoundAgain",
          record.mainlineSubject([...search.entries.values()]),
          last?.measuredLpm ?? 0,
          last?.expectedLpm ?? 0,
        );
        break;
      }
    }
  }
  if (system.search?.state.phase === "done") {
    system.search = null;
    if (!system.stopped) record.night.suspendedSystems.delete(system.index);
    record.dirty = true;
    record.log(
      now,
      "resumed",
      record.mainlineSubject([...search.entries.values()]),
      system.stopped ? "search over; the system stays shut" : "search over; the others finish what they had left",
    );
  }
}

function foundStation(
  record: ControllerRecord,
  system: SystemState,
  result: TestResult,
  entries: Map<string, Entry>,
  now: EpochS,
): void {
  const kind = system.search?.state.plan.kind === "low" ? "stationLow" : "stationHigh";
  if (kind === "stationHigh") system.highInARow++;
  if (kind === "stationHigh" && entries.size === 1 && system.highInARow > 1) {
    // The second high in a row with the mainline tight: its constant, before more is locked out.
    record.alarm(
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
  record.alarm(result.at, kind, result.stationId, result.measuredLpm, result.expectedLpm);
  record.lockStation(got(entries, result.stationId), now);
}

/** No test had flow: the pump, not a station. */
function pumpNeverPumped(record: ControllerRecord, system: SystemState, result: TestResult, now: EpochS): void {
  const dry = system.search?.dry;
  if (!dry) return;
  record.alarm(now, "pumpNoFlow", dry.deviceId, result.measuredLpm, result.expectedLpm);
  record.stopSystem(system, now, "pump ran 60 s against no flow");
  record.lockPocs([dry.poc], now);
}

function allTripped(
  record: ControllerRecord,
  system: SystemState,
  results: TestResult[],
  set: Entry[],
  now: EpochS,
): void {
  const last = nth(results, results.length - 1);
  if (system.search?.state.plan.kind === "low" && results.length < set.length) {
    supplyOfFeed(
      record,
      system,
      set.filter((e) => results.some((r) => r.stationId === record.w.site.stations[e.station]?.id)),
      last,
      now,
    );
    return;
  }
  if (system.search?.state.plan.kind === "low") {
    supplyOrSensor(record, system, set, last.measuredLpm, last.expectedLpm, now);
    return;
  }
  const sensor = system.points[system.search?.point ?? 0]?.sensors[0];
  record.alarm(now, "sensor", sensor?.id, last.measuredLpm, last.expectedLpm, "notOnlyOne");
  system.unjudged = true;
}

function lockLeakingMainline(record: ControllerRecord, set: Entry[], measured: number, now: EpochS): void {
  const mains = [...new Set(set.map((e) => nth(record.w.stationMainline, e.station)))];
  const shared = lowestCommonMainline(record.w, mains);
  const toLock = shared === null ? mains : [shared];
  const { site } = record.w;
  for (const m of toLock) record.alarm(now, "mainline", site.mainlines[m]?.id, measured, 0);
  const ownValve = (m: number): boolean => (site.mainlines[m]?.devices ?? []).some((d) => d.kind === "masterValve");
  const pocs = [...new Set(toLock.filter((m) => !ownValve(m)).flatMap((m) => record.w.pocsAbove[m] ?? []))];
  for (const m of toLock) {
    record.lock(site.mainlines[m]?.id, now);
    record.stopped.push({
      at: now,
      subjectId: nth(site.mainlines, m).id,
      reason: "mainline leaks with every station closed",
    });
  }
  for (const p of pocs) record.lock(site.pocs[p]?.id, now);
  record.night.lockElements({ mainlines: toLock, pocs }, now);
  record.dirty = true;
}
