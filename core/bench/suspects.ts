import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Entry } from "../dispatch/queue.ts";
import type { TestResult } from "../isolate/search.ts";
import type { SetLimits } from "../judge/set-limits.ts";
import { pocSensing } from "../network/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { ControllerRecord } from "./controller-record.ts";
import type { Suspect, SystemState } from "./system.ts";

/**
 * Stations that run one at a time never trip together: one that is low is a suspect until the next of what feeds it tells whether it is to blame or the supply (handbook#8-limits).
 * This one tripped low alone.
 */
export function suspectLow(
  record: ControllerRecord,
  system: SystemState,
  entry: Entry,
  measured: number,
  limits: SetLimits,
  now: EpochS,
): void {
  const before = system.suspects.get(record.feedOf(entry.station));
  if (!before) {
    record.night.pause(entry, now, "limit");
    becomeSuspect(record, system, entry, measured, limits.expectedLpm, now);
    return;
  }
  if (oneFeed(record, system)) supplyOrSensor(record, system, [entry], measured, limits.expectedLpm, now);
  else {
    record.night.pause(entry, now, "limit");
    supplyOfFeed(
      record,
      system,
      [before.entry, entry],
      {
        stationId: nth(record.w.site.stations, entry.station).id,
        tripped: true,
        at: now,
        measuredLpm: measured,
        expectedLpm: limits.expectedLpm,
      },
      now,
    );
  }
}

function becomeSuspect(
  record: ControllerRecord,
  system: SystemState,
  entry: Entry,
  measuredLpm: number,
  expectedLpm: number,
  now: EpochS,
): void {
  record.night.lockedStations.add(entry.station);
  system.suspects.set(record.feedOf(entry.station), { entry, measuredLpm, expectedLpm });
  record.dirty = true;
  record.log(
    now,
    "suspect",
    record.w.site.stations[entry.station]?.id,
    "low; the next station of the same supply tells whether it is this one or the supply",
  );
}

/** All of the system hangs on the same points of connection. */
function oneFeed(record: ControllerRecord, system: SystemState): boolean {
  return new Set(system.mainlines.map((m) => record.feedOfMain(m))).size <= 1;
}

/**
 * A set ran hold-off and persistence and reads inside: where part of it has a suspect's feed, and would be missed if that feed gave nothing, the supply is right and the suspect
 * was to blame.
 */
export function provedRight(
  record: ControllerRecord,
  system: SystemState,
  set: Entry[],
  limits: SetLimits,
  now: EpochS,
): void {
  system.highInARow = 0;
  for (const [feed, suspect] of [...system.suspects]) {
    if (set.includes(suspect.entry)) continue;
    const ofFeed = record
      .stationsOf(set.filter((e) => record.feedOf(e.station) === feed))
      .reduce((sum, s) => sum + (expectedFlow(s)?.lpm ?? 0), 0);
    if (ofFeed > 0 && limits.expectedLpm - ofFeed < limits.lowLpm) lockSuspect(record, system, feed, now);
  }
}

/** Tripped low with no other of its feed beside it: like one that runs alone, the next of that feed tells whether it is this one or the supply. */
export function unsureLow(
  record: ControllerRecord,
  system: SystemState,
  result: TestResult,
  entry: Entry,
  now: EpochS,
): void {
  const before = system.suspects.get(record.feedOf(entry.station));
  if (before) supplyOfFeed(record, system, [before.entry, entry], result, now);
  else becomeSuspect(record, system, entry, result.measuredLpm, result.expectedLpm, now);
}

/** All of one feed are low while others of the system are right: that supply, and the mains that hang on it alone stop. */
export function supplyOfFeed(
  record: ControllerRecord,
  system: SystemState,
  entries: Entry[],
  result: TestResult,
  now: EpochS,
): void {
  const feed = record.feedOf(nth(entries, 0).station);
  const subject = record.mainlineSubject(entries);
  record.alarm(result.at, "supply", subject, result.measuredLpm, result.expectedLpm);
  freeSuspect(record, system, feed, now);
  const mains = new Set(system.mainlines.filter((m) => record.feedOfMain(m) === feed));
  record.night.stopMains(mains, now);
  record.stopped.push({ at: now, subjectId: subject, reason: "supply: everything on this feed is low" });
  record.log(now, "stopped", subject, "supply: everything on this feed is low");
  record.dirty = true;
}

/** Nothing more is to come that could clear a suspect: one alone is to blame; of several, on feeds of their own, none is: what feeds them all. */
export function settleSuspects(record: ControllerRecord, system: SystemState, now: EpochS): void {
  if (
    system.suspects.size === 0 ||
    system.stopped ||
    system.search ||
    record.anyRunsIn(system) ||
    record.night.moreToCome(system.index)
  )
    return;
  const [[feed, last]] = [...system.suspects].slice(-1) as [[string, Suspect]];
  if (system.suspects.size === 1) lockSuspect(record, system, feed, now);
  else supplyOrSensor(record, system, [last.entry], last.measuredLpm, last.expectedLpm, now);
}

function lockSuspect(record: ControllerRecord, system: SystemState, feed: string, now: EpochS): void {
  const suspect = system.suspects.get(feed);
  if (!suspect) return;
  system.suspects.delete(feed);
  record.alarm(
    now,
    "stationLow",
    record.w.site.stations[suspect.entry.station]?.id,
    suspect.measuredLpm,
    suspect.expectedLpm,
  );
  record.lockStation(suspect.entry, now);
}

/** Everything is low: no station is to blame. Supply, or the sensor where a pressure sensor shows that pressure is there. */
export function supplyOrSensor(
  record: ControllerRecord,
  system: SystemState,
  set: Entry[],
  measured: number,
  expected: number,
  now: EpochS,
): void {
  const sensors = system.pocs.flatMap((p) => pocSensing(record.w, p).sensors.map((sensor) => ({ p, sensor })));
  const minimum = sensors.reduce((sum, { sensor }) => sum + (sensorRange(sensor).minLpm ?? 0), 0);
  const pressed = sensors.find(({ p }) =>
    (record.w.site.pocs[p]?.devices ?? []).some(
      (d) => d.kind === "pressureSensor" && (record.lastSeen?.pressureKpa[p] ?? -1) >= (d.lowKpa ?? 0),
    ),
  );
  if (measured < Math.max(minimum, 1e-6) && pressed) {
    record.alarm(now, "sensor", pressed.sensor.id, measured, expected, "sensorBySupply");
    for (const feed of [...system.suspects.keys()]) freeSuspect(record, system, feed, now);
    system.unjudged = true;
    return;
  }
  const subject = record.mainlineSubject([...[...system.suspects.values()].map((s) => s.entry), ...set]);
  record.alarm(now, "supply", subject, measured, expected);
  system.suspects.clear();
  record.stopSystem(system, now, "supply: closed or empty supply, or failed pump; or a dead sensor", subject);
}

function freeSuspect(record: ControllerRecord, system: SystemState, feed: string, now: EpochS): void {
  const suspect = system.suspects.get(feed);
  if (!suspect) return;
  record.night.lockedStations.delete(suspect.entry.station);
  suspect.entry.readyAt = now;
  system.suspects.delete(feed);
  record.dirty = true;
}
