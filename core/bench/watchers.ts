import type { EpochS } from "../dates/wall-time.ts";
import { type BurstTrip, judgeBurst, judgeOffSchedule, judgePressure, judgePumps, type Seen } from "../judge/judge.ts";
import type { ControllerRecord } from "./controller-record.ts";
import { beginFind, endDryTest } from "./find-and-isolate.ts";
import type { SystemState } from "./system.ts";

/** Burst: answered at once, as the connection says. */
export function watchBurst(record: ControllerRecord, system: SystemState, seen: Seen, now: EpochS): void {
  for (const tripped of judgeBurst(record.w, system, system.judge, seen, system.running))
    answerBurst(record, system, tripped, now);
}

function answerBurst(record: ControllerRecord, system: SystemState, tripped: BurstTrip, now: EpochS): void {
  const poc = record.w.site.pocs[tripped.poc];
  const set = record.runningIn(system);
  record.alarm(now, "burst", poc?.id, tripped.measuredLpm, tripped.expectedLpm);
  const response = poc?.burstResponse ?? "stopAll";
  if (response === "notify") return;
  const key = `high:${system.judge.points[0]?.key}`;
  const findable = set.length > 0 && !system.search && system.points.length > 0 && !system.searched.has(key);
  if (response === "findAndIsolate" && findable) beginFind(record, system, 0, "high", set, key, now);
  else if (response === "stopStation" && set.length > 0) for (const e of set) record.lockStation(e, now);
  else {
    record.stopSystem(system, now, "burst: stop all");
    record.lockPocs(system.pocs, now);
  }
}

/** Flow while nothing runs. */
export function watchOffSchedule(record: ControllerRecord, system: SystemState, seen: Seen, now: EpochS): void {
  const idle = !system.search && system.retest === null && !record.anyRunsIn(system);
  const tripped = judgeOffSchedule(record.w, system, system.judge, seen, idle, system.allowanceLpm, now);
  if (!tripped) return;
  const poc = record.w.site.pocs[tripped.poc];
  record.alarm(now, "offSchedule", poc?.id, tripped.measuredLpm, 0);
  if ((poc?.offScheduleResponse ?? "notify") === "notify") return;
  record.stopSystem(system, now, "off-schedule flow: shut");
  record.lockPocs(system.pocs, now);
}

/** Pressure beyond a limit: the same responses as flow, but no station is to blame for pressure. */
export function watchPressure(record: ControllerRecord, system: SystemState, seen: Seen, now: EpochS): void {
  for (const tripped of judgePressure(record.w, system, system.judge, seen, system.running, now)) {
    const { kind, deviceId, measuredLpm, expectedLpm, kPa } = tripped;
    record.alarms.push({ at: now, kind, subjectId: deviceId, measuredLpm, expectedLpm, kPa });
    record.log(now, "alarm", deviceId, kind);
    if (tripped.response === "notify") continue;
    record.stopSystem(system, now, kind === "pressureLow" ? "pressure under its limit" : "pressure over its limit");
    if (tripped.response === "stopAll") record.lockPocs(system.pocs, now);
    return;
  }
}

/**
 * A pump against no flow is stopped at once, and its connection locked; in a station's test it ends that test.
 * @returns whether a test ended: the search has had its second
 */
export function watchPumps(record: ControllerRecord, system: SystemState, seen: Seen, now: EpochS): boolean {
  const testing = system.search?.testing;
  const running = testing ? () => [testing.entry.station] : system.running;
  const excused = system.unjudged || (system.search?.pump ?? false);
  for (const tripped of judgePumps(record.w, system, system.judge, seen, running, excused)) {
    const { poc, deviceId, measuredLpm, expectedLpm } = tripped;
    if (testing) {
      endDryTest(record, system, { poc, deviceId, measuredLpm }, now);
      return true;
    }
    record.alarm(now, "pumpNoFlow", deviceId, measuredLpm, expectedLpm);
    record.stopSystem(system, now, "pump ran 60 s against no flow");
    record.lockPocs([poc], now);
  }
  return false;
}
