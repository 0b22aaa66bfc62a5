import type { EpochS } from "../calendar/wall-time.ts";
import type { Entry } from "../dispatch/queue.ts";
import type { TestResult } from "../isolate/search.ts";
import type { SetLimits } from "../limits/limits.ts";
import { pocSensing } from "../sensors/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { ControllerRecord } from "./controller-record.ts";
import type { SystemState } from "./system.ts";

/**
 * Stations that run one at a time never trip together: one that is low is a suspect until the next of its supply tells whether it is to blame or the supply (handbook 8).
 * This one tripped low alone.
 */
export function suspectLow(record: ControllerRecord, system: SystemState, entry: Entry, measured: number, limits: SetLimits, now: EpochS): void {
  if (system.suspect) {
    supplyOrSensor(record, system, [entry], measured, limits.expectedLpm, now);
    return;
  }
  record.night.pause(entry, now, "limit");
  becomeSuspect(record, system, entry, measured, limits.expectedLpm, now);
}

function becomeSuspect(record: ControllerRecord, system: SystemState, entry: Entry, measuredLpm: number, expectedLpm: number, now: EpochS): void {
  record.night.lockedStations.add(entry.station);
  system.suspect = { entry, measuredLpm, expectedLpm };
  record.dirty = true;
  record.log(now, "suspect", record.w.site.stations[entry.station]?.id, "low; the next station of the same supply tells whether it is this one or the supply");
}

/** A set ran hold-off and persistence and reads inside: where one of it has the suspect's feed, the supply is right and the suspect was to blame. */
export function provedRight(record: ControllerRecord, system: SystemState, set: Entry[], now: EpochS): void {
  system.highInARow = 0;
  const { suspect } = system;
  if (suspect && !set.includes(suspect.entry) && set.some((e) => record.feedOf(e.station) === record.feedOf(suspect.entry.station))) lockSuspect(record, system, now);
}

/** Tripped low with no other of its feed beside it: like one that runs alone, the next of that feed tells whether it is this one or the supply. */
export function unsureLow(record: ControllerRecord, system: SystemState, result: TestResult, entry: Entry, now: EpochS): void {
  const { suspect } = system;
  if (suspect && record.feedOf(suspect.entry.station) === record.feedOf(entry.station)) {
    supplyOfFeed(record, system, [suspect.entry, entry], result, now);
    return;
  }
  if (suspect) {
    record.alarm(result.at, "stationLow", result.stationId, result.measuredLpm, result.expectedLpm);
    record.lockStation(entry, now);
    return;
  }
  becomeSuspect(record, system, entry, result.measuredLpm, result.expectedLpm, now);
}

/** All of one feed are low while others of the system are right: that supply, and the mains that hang on it alone stop. */
export function supplyOfFeed(record: ControllerRecord, system: SystemState, entries: Entry[], result: TestResult, now: EpochS): void {
  const feed = record.feedOf((entries[0] as Entry).station);
  const subject = record.mainlineSubject(entries);
  record.alarm(result.at, "supply", subject, result.measuredLpm, result.expectedLpm);
  if (system.suspect && record.feedOf(system.suspect.entry.station) === feed) freeSuspect(record, system, now);
  const mains = new Set(system.mainlines.filter((m) => record.feedOfMain(m) === feed));
  record.night.stopMains(mains, now);
  record.stopped.push({ at: now, subjectId: subject, reason: "supply: everything on this feed is low" });
  record.log(now, "stopped", subject, "supply: everything on this feed is low");
  record.dirty = true;
}

/** Nothing more is to come that could clear the suspect: it is to blame. */
export function settleSuspect(record: ControllerRecord, system: SystemState, now: EpochS): void {
  if (system.suspect && !system.stopped && !system.search && record.runningIn(system).length === 0 && !record.night.moreToCome(system.index)) lockSuspect(record, system, now);
}

function lockSuspect(record: ControllerRecord, system: SystemState, now: EpochS): void {
  const suspect = system.suspect;
  if (!suspect) return;
  system.suspect = null;
  record.alarm(now, "stationLow", record.w.site.stations[suspect.entry.station]?.id, suspect.measuredLpm, suspect.expectedLpm);
  record.lockStation(suspect.entry, now);
}

/** Everything is low: no station is to blame. Supply, or the sensor where a pressure sensor shows that pressure is there. */
export function supplyOrSensor(record: ControllerRecord, system: SystemState, set: Entry[], measured: number, expected: number, now: EpochS): void {
  const sensors = system.pocs.flatMap((p) => pocSensing(record.w, p).sensors.map((sensor) => ({ p, sensor })));
  const minimum = sensors.reduce((sum, { sensor }) => sum + (sensorRange(sensor).minLpm ?? 0), 0);
  const pressed = sensors.find(({ p }) =>
    (record.w.site.pocs[p]?.devices ?? []).some((d) => d.kind === "pressureSensor" && (record.lastSeen?.pressureKpa[p] ?? -1) >= (d.lowKpa ?? 0)),
  );
  if (measured < Math.max(minimum, 1e-6) && pressed) {
    record.alarm(now, "sensor", pressed.sensor.id, measured, expected, "sensorBySupply");
    freeSuspect(record, system, now);
    system.unjudged = true;
    return;
  }
  const subject = record.mainlineSubject(system.suspect ? [system.suspect.entry, ...set] : set);
  record.alarm(now, "supply", subject, measured, expected);
  system.suspect = null;
  record.stopSystem(system, now, "supply: closed or empty supply, or failed pump; or a dead sensor", subject);
}

function freeSuspect(record: ControllerRecord, system: SystemState, now: EpochS): void {
  if (!system.suspect) return;
  record.night.lockedStations.delete(system.suspect.entry.station);
  system.suspect.entry.readyAt = now;
  system.suspect = null;
  record.dirty = true;
}
