import type { EpochS } from "../calendar/wall-time.ts";
import { setLimits } from "../limits/limits.ts";
import { CALM, countBeyond } from "../limits/persistence.ts";
import { pocSensing } from "../sensors/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { ControllerRecord } from "./controller-record.ts";
import type { PlantSecond } from "./plant.ts";
import { restLimitLpm, type SystemState } from "./system.ts";

/** A pump against no flow is stopped after so long, s (handbook 8). */
const PUMP_DRY_S = 60;

/** The burst limit of each connection: its own persistence, no hold-off. */
export function watchBurst(record: ControllerRecord, system: SystemState, seen: PlantSecond, now: EpochS): void {
  for (const p of system.pocs) {
    const poc = record.w.site.pocs[p];
    const reading = seen.pocReading[p];
    if (poc?.burstLimitLpm === undefined || reading === null || reading === undefined) continue;
    const { state, trips } = countBeyond(
      system.burst.get(p) ?? CALM,
      reading > poc.burstLimitLpm + 1e-6,
      poc.burstPersistenceS ?? 15,
    );
    system.burst.set(p, state);
    if (!trips) continue;
    const set = record.runningIn(system);
    const expected = setLimits(record.w.site.policy, record.stationsOf(set)).expectedLpm;
    record.alarm(now, "burst", poc.id, reading, expected);
    const response = poc.burstResponse ?? "stopAll";
    if (response === "notify") continue;
    const point = system.points[0];
    if (
      response === "findAndIsolate" &&
      set.length > 0 &&
      !system.search &&
      point &&
      !system.searched.has(`high:${point.setKey}`)
    )
      record.search(system, point, "high", set, `high:${point.setKey}`, now);
    else if (response === "stopStation" && set.length > 0) for (const e of set) record.lockStation(e, now);
    else {
      record.stopSystem(system, now, "burst: stop all");
      record.lockPocs(system.pocs, now);
    }
  }
}

/** Flow while nothing runs, after hold-off, over the off-schedule limit and what hand watering is allowed. */
export function watchOffSchedule(record: ControllerRecord, system: SystemState, seen: PlantSecond, now: EpochS): void {
  const { site } = record.w;
  const withSensor = system.pocs.filter((p) => pocSensing(record.w, p).sensors.length > 0);
  const idle =
    withSensor.length > 0 && !system.search && system.retestUntil === null && record.runningIn(system).length === 0;
  if (!idle || now - 1 < system.holdUntil) {
    system.offSchedule = CALM;
    return;
  }
  const reading = withSensor.reduce((sum, p) => sum + (seen.pocReading[p] ?? 0), 0);
  const limit = restLimitLpm(record.w, withSensor) + record.allowance(system, now - 1);
  const persistence = Math.max(...withSensor.map((p) => site.pocs[p]?.offSchedulePersistenceS ?? 120));
  const { state, trips } = countBeyond(system.offSchedule, reading > limit + 1e-6, persistence);
  system.offSchedule = state;
  if (!trips) return;
  const most = withSensor.reduce((a, b) => ((seen.pocReading[b] ?? 0) > (seen.pocReading[a] ?? 0) ? b : a));
  record.alarm(now, "offSchedule", site.pocs[most]?.id, reading, 0);
  if ((site.pocs[most]?.offScheduleResponse ?? "notify") === "notify") return;
  record.stopSystem(system, now, "off-schedule flow: shut");
  record.lockPocs(system.pocs, now);
}

/** Pressure limits while stations run, after hold-off: as long as a flow limit, with the same response, but no station is to blame for pressure. */
export function watchPressure(record: ControllerRecord, system: SystemState, seen: PlantSecond, now: EpochS): void {
  const set = record.runningIn(system);
  const judged = set.length > 0 && now - 1 >= system.holdUntil;
  for (const { poc, device, low, high } of system.pressures) {
    const measured = seen.pressureKpa[poc] ?? 0;
    const policy = record.policyOf(set);
    for (const [state, limit, beyond, kind, response] of [
      [low, device.lowKpa, measured < (device.lowKpa ?? 0), "pressureLow", policy.lowResponse],
      [high, device.highKpa, measured > (device.highKpa ?? 0), "pressureHigh", policy.highResponse],
    ] as const) {
      if (limit === undefined) continue;
      const next =
        judged && record.now.pocValve[poc]
          ? countBeyond(state.now, beyond, policy.persistenceS)
          : { state: { count: 0, told: state.now.told }, trips: false };
      state.now = next.state;
      if (!next.trips) continue;
      record.alarms.push({
        at: now,
        kind,
        subjectId: device.id,
        measuredLpm: seen.pocReading[poc] ?? 0,
        expectedLpm: setLimits(policy, record.stationsOf(set)).expectedLpm,
        kPa: { measured, limit },
      });
      record.log(now, "alarm", device.id, kind);
      if (response === "notify") continue;
      record.stopSystem(system, now, kind === "pressureLow" ? "pressure under its limit" : "pressure over its limit");
      if (response === "stopAll") record.lockPocs(system.pocs, now);
      return;
    }
  }
}

/** A pump running against no flow for 60 s is stopped at once; hold-off never suspends that. */
export function watchPumps(record: ControllerRecord, system: SystemState, seen: PlantSecond, now: EpochS): void {
  for (const pump of system.pumps) {
    const sensor = pocSensing(record.w, pump.poc).sensors[0];
    const reading = seen.pocReading[pump.poc];
    const noFlow =
      sensor !== undefined &&
      reading !== null &&
      reading !== undefined &&
      reading < Math.max(1e-6, sensorRange(sensor).minLpm ?? 0);
    const judged = record.now.pump[pump.poc] === true && noFlow && !system.unjudged && !(system.search?.pump ?? false);
    pump.dryS = judged ? pump.dryS + 1 : 0;
    if (pump.dryS < PUMP_DRY_S) continue;
    pump.dryS = 0;
    const expected = setLimits(record.w.site.policy, record.stationsOf(record.runningIn(system))).expectedLpm;
    record.alarm(now, "pumpNoFlow", pump.device.id, reading ?? 0, expected);
    record.stopSystem(system, now, "pump ran 60 s against no flow");
    record.lockPocs([pump.poc], now);
  }
}
