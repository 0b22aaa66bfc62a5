import type { AlarmKind, AlarmNote } from "../bench/controller-record.ts";
import { restLimitLpm, subjectOfSet, type SystemState, systemStates } from "../bench/system.ts";
import { localDate } from "../calendar/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { setLimits } from "../limits/limits.ts";
import { CALM, countBeyond, judgeReading, type Persistence } from "../limits/persistence.ts";
import { policyOfSet, withInherited } from "../limits/policy-of.ts";
import { setRatio } from "../limits/set-ratio.ts";
import { systemOf } from "../network/system-of.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../sensors/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import type { EventMessage, ReadingMessage } from "./messages.ts";

/** An alarm of a live site; `at` in epoch seconds. */
export type LiveAlarm = {
  at: number;
  kind: AlarmKind;
  subjectId: string;
  measuredLpm: number;
  expectedLpm: number;
  note?: AlarmNote;
  kPa?: { measured: number; limit: number };
};

type SystemLive = {
  holdUntil: number;
  /** Since when every master valve of it is shut; null while one is open. */
  shutSince: number | null;
  /** When the controller last spoke of a trip of its own, and whether it is searching. */
  spokeAt: number;
  searching: boolean;
  points: { key: string; high: Persistence; low: Persistence }[];
  burst: Record<string, Persistence>;
  offSchedule: Persistence;
  dryS: Record<string, number>;
  pressure: Record<string, { low: Persistence; high: Persistence }>;
  /** Trips that wait for the controller's own word. */
  pending: LiveAlarm[];
};
/** What the judge remembers between readings; plain data, so it is kept with them. */
export type LiveState = { at: number | null; open: string[]; valves: string[]; systems: SystemLive[] };

/** A reading stands for the time since the one before, up to so long; after more it is a gap and counting starts afresh. */
export const GAP_S = 150;
/** A controller that finds and isolates has so long to speak of a trip before it is told without it. */
export const ANSWER_S = 120;
const EMPTY_AFTER_S = 1800;
const PUMP_DRY_S = 60;
const SPEAKS = new Set(["trip", "searchBegins", "retest", "suspect", "alarm", "stopped"]);

/**
 * Judges a live site by the limits of its configuration (handbook 8), one reading at a time, and says what trips: high and low by set, burst, off-schedule, pressure and a
 * pump without flow. Presa opens no real valves, so it only tells. A controller that isolates tells for itself; its word is waited for.
 */
export class LiveJudge {
  private readonly site: SiteFile;
  private readonly w: Waterworks;
  private readonly systems: SystemState[];
  private calendar: { date: string; capacity: CapacityCalendar } | null = null;

  constructor(site: SiteFile) {
    this.site = withInherited(site);
    this.w = waterworks(this.site);
    this.systems = systemStates(this.w);
  }

  blank(): LiveState {
    return {
      at: null,
      open: [],
      valves: [],
      systems: this.systems.map((s) => ({
        holdUntil: Number.MIN_SAFE_INTEGER,
        shutSince: null,
        spokeAt: Number.MIN_SAFE_INTEGER,
        searching: false,
        points: s.points.map(() => ({ key: "", high: CALM, low: CALM })),
        burst: {},
        offSchedule: CALM,
        dryS: {},
        pressure: {},
        pending: [],
      })),
    };
  }

  /** State kept under another revision of the configuration: used where it still fits. */
  fits(state: LiveState): boolean {
    return (
      state.systems.length === this.systems.length &&
      state.systems.every((s, i) => s.points.length === this.systems[i]?.points.length)
    );
  }

  /** What the controller says of itself. An alarm of its own is an alarm. */
  event(state: LiveState, e: EventMessage): LiveAlarm[] {
    const at = Date.parse(e.at) / 1000;
    const system = systemOf(this.w, e.subject);
    const live = system === undefined ? undefined : state.systems[system];
    if (live) {
      if (e.type === "searchBegins") live.searching = true;
      if (e.type === "resumed" || e.type === "stopped") live.searching = false;
      if (SPEAKS.has(e.type)) {
        live.spokeAt = at;
        live.pending = [];
      }
    }
    if (e.type !== "alarm" || !e.alarm) return [];
    return [
      {
        at,
        kind: e.alarm.kind as AlarmKind,
        subjectId: e.subject,
        measuredLpm: e.alarm.measuredLpm,
        expectedLpm: e.alarm.expectedLpm,
        ...(e.alarm.note ? { note: e.alarm.note as AlarmNote } : {}),
        ...(e.alarm.kPa ? { kPa: e.alarm.kPa } : {}),
      },
    ];
  }

  /** Numbers that never came: nothing is counted across them. */
  hole(state: LiveState): void {
    state.at = null;
    for (const s of state.systems) this.forget(s);
  }

  /**
   * The readings of one instant. Readings older than the last are passed over.
   *
   * @param isolates the controller finds and isolates by itself
   */
  reading(state: LiveState, r: ReadingMessage, isolates: boolean): LiveAlarm[] {
    const now = Math.round(Date.parse(r.at) / 1000);
    if (state.at !== null && now <= state.at) return [];
    const gap = state.at === null || now - state.at > GAP_S;
    const stands = gap ? 1 : now - (state.at as number);
    if (gap) for (const s of state.systems) this.forget(s);
    this.noteValves(state, r, now - stands, gap);
    state.at = now;
    const told: LiveAlarm[] = [];
    this.systems.forEach((system, i) => {
      const live = state.systems[i] as SystemLive;
      const tripped: LiveAlarm[] = [];
      for (let at = now - stands + 1; at <= now; at++) tripped.push(...this.second(system, live, state, r, at));
      if (isolates) live.pending.push(...tripped.filter((a) => a.at - live.spokeAt > ANSWER_S));
      else told.push(...tripped.map((a): LiveAlarm => ({ ...a, note: "onlyTold" })));
      for (const a of live.pending.filter((p) => now - p.at >= ANSWER_S)) told.push({ ...a, note: "controllerSilent" });
      live.pending = live.pending.filter((p) => now - p.at < ANSWER_S);
    });
    return told;
  }

  /** What a set of stations should read now and between which limits; null where it cannot be judged. */
  band(open: readonly string[], at: number): { expectedLpm: number; highLpm: number; lowLpm: number } | null {
    const places = open.flatMap((id) => this.w.stationIndex.get(id) ?? []);
    if (places.length === 0) return null;
    const stations = places.map((s) => this.site.stations[s] as Station);
    const allowance = this.systems
      .filter((s) => places.some((p) => this.w.systemOfMainline[this.w.stationMainline[p] as number] === s.index))
      .reduce((sum, s) => sum + this.allowance(s, at), 0);
    return setLimits(policyOfSet(this.w, places), stations, allowance, setRatio(this.site, stations));
  }

  private forget(live: SystemLive): void {
    live.points = live.points.map((p) => ({ key: p.key, high: CALM, low: CALM }));
    live.burst = {};
    live.offSchedule = CALM;
    live.dryS = {};
    live.pressure = {};
    live.pending = [];
    // The word that a search is over may be what is missing.
    live.searching = false;
  }

  private noteValves(state: LiveState, r: ReadingMessage, since: number, gap: boolean): void {
    const now = { open: new Set(r.open), valves: new Set(r.valves) };
    const before = { open: new Set(state.open), valves: new Set(state.valves) };
    const turned = (a: Set<string>, b: Set<string>): string[] => [
      ...[...a].filter((id) => !b.has(id)),
      ...[...b].filter((id) => !a.has(id)),
    ];
    const changed = new Set(
      [...turned(before.open, now.open), ...turned(before.valves, now.valves)].flatMap(
        (id) => systemOf(this.w, id) ?? [],
      ),
    );
    this.systems.forEach((system, i) => {
      const live = state.systems[i] as SystemLive;
      const mains = system.mainlines.map((m) => this.site.mainlines[m]);
      const valves = [
        ...system.pocs.flatMap((p) => this.site.pocs[p]?.devices ?? []),
        ...mains.flatMap((m) => m?.devices ?? []),
      ].filter((d) => d.kind === "masterValve");
      const shut = valves.length > 0 && !valves.some((d) => now.valves.has(d.id));
      const wasEmpty = live.shutSince !== null && since - live.shutSince >= EMPTY_AFTER_S;
      live.shutSince = shut ? (live.shutSince ?? since) : null;
      if (!changed.has(i) && !gap) return;
      const running = [...now.open]
        .flatMap((id) => this.w.stationIndex.get(id) ?? [])
        .filter((s) => this.w.systemOfMainline[this.w.stationMainline[s] as number] === i);
      const holdOffS = Math.max(
        0,
        ...mains.map((m) => m?.holdOffS ?? 60),
        ...running.map((s) => this.site.stations[s]?.holdOffS ?? 0),
      );
      const fillS = wasEmpty && !shut ? Math.max(0, ...mains.map((m) => m?.fillS ?? 120)) : 0;
      live.holdUntil = Math.max(live.holdUntil, since + Math.max(holdOffS, fillS));
      for (const p of live.points) {
        p.high = { count: 0, told: p.high.told };
        p.low = { count: 0, told: p.low.told };
      }
    });
    state.open = [...now.open];
    state.valves = [...now.valves];
  }

  private second(system: SystemState, live: SystemLive, state: LiveState, r: ReadingMessage, now: number): LiveAlarm[] {
    const told: LiveAlarm[] = [];
    const running = state.open
      .flatMap((id) => this.w.stationIndex.get(id) ?? [])
      .filter((s) => this.w.systemOfMainline[this.w.stationMainline[s] as number] === system.index);
    this.burst(system, live, r, running, now, told);
    this.pumps(system, live, r, running, now, told);
    if (live.searching) return told;
    system.points.forEach((point, i) => {
      const kept = live.points[i] as SystemLive["points"][number];
      const set = running.filter((s) => point.covers.has(this.w.stationMainline[s] as number));
      const key = [...set].sort((a, b) => a - b).join(",");
      if (key !== kept.key) Object.assign(kept, { key, high: CALM, low: CALM });
      const measured = this.sum(
        r,
        point.sensors.map((d) => d.id),
      );
      if (set.length === 0 || measured === null || now - 1 < live.holdUntil) return;
      const stations = set.map((s) => this.site.stations[s] as Station);
      const policy = policyOfSet(this.w, set);
      const limits = setLimits(policy, stations, this.allowance(system, now - 1), setRatio(this.site, stations));
      if (!limits.judged) return;
      const high = judgeReading(kept.high, measured - limits.highLpm, policy);
      const low = judgeReading(kept.low, limits.lowLpm - measured, policy);
      kept.high = high.state;
      kept.low = low.state;
      if (high.trips || low.trips)
        told.push({
          at: now,
          kind: high.trips ? "stationHigh" : "stationLow",
          subjectId: subjectOfSet(this.w, set),
          measuredLpm: measured,
          expectedLpm: limits.expectedLpm,
        });
    });
    this.offSchedule(system, live, r, running, now, told);
    this.pressure(system, live, r, running, now, told);
    return told;
  }

  private burst(
    system: SystemState,
    live: SystemLive,
    r: ReadingMessage,
    running: number[],
    now: number,
    told: LiveAlarm[],
  ): void {
    for (const p of system.pocs) {
      const poc = this.site.pocs[p];
      const measured = this.sum(
        r,
        pocSensing(this.w, p).sensors.map((d) => d.id),
      );
      if (poc?.burstLimitLpm === undefined || measured === null) continue;
      const { state, trips } = countBeyond(
        live.burst[poc.id] ?? CALM,
        measured > poc.burstLimitLpm + 1e-6,
        poc.burstPersistenceS ?? 15,
      );
      live.burst[poc.id] = state;
      if (trips)
        told.push({
          at: now,
          kind: "burst",
          subjectId: poc.id,
          measuredLpm: measured,
          expectedLpm: this.expected(running),
        });
    }
  }

  private pumps(
    system: SystemState,
    live: SystemLive,
    r: ReadingMessage,
    running: number[],
    now: number,
    told: LiveAlarm[],
  ): void {
    for (const { poc, device } of system.pumps) {
      const sensor = pocSensing(this.w, poc).sensors[0];
      const measured = sensor ? (r.flow[sensor.id] ?? null) : null;
      const dry =
        sensor !== undefined &&
        measured !== null &&
        r.pumps.includes(device.id) &&
        measured < Math.max(1e-6, sensorRange(sensor).minLpm ?? 0);
      live.dryS[device.id] = dry ? (live.dryS[device.id] ?? 0) + 1 : 0;
      if (live.dryS[device.id] === PUMP_DRY_S)
        told.push({
          at: now,
          kind: "pumpNoFlow",
          subjectId: device.id,
          measuredLpm: measured ?? 0,
          expectedLpm: this.expected(running),
        });
    }
  }

  private offSchedule(
    system: SystemState,
    live: SystemLive,
    r: ReadingMessage,
    running: number[],
    now: number,
    told: LiveAlarm[],
  ): void {
    const sensed = system.pocs.filter((p) => pocSensing(this.w, p).sensors.length > 0);
    const measured = this.sum(
      r,
      sensed.flatMap((p) => pocSensing(this.w, p).sensors.map((d) => d.id)),
    );
    if (sensed.length === 0 || measured === null || running.length > 0 || now - 1 < live.holdUntil) {
      live.offSchedule = CALM;
      return;
    }
    const persistence = Math.max(...sensed.map((p) => this.site.pocs[p]?.offSchedulePersistenceS ?? 120));
    const { state, trips } = countBeyond(
      live.offSchedule,
      measured > restLimitLpm(this.w, sensed) + this.allowance(system, now - 1) + 1e-6,
      persistence,
    );
    live.offSchedule = state;
    if (!trips) return;
    const of = (p: number): number =>
      this.sum(
        r,
        pocSensing(this.w, p).sensors.map((d) => d.id),
      ) ?? 0;
    told.push({
      at: now,
      kind: "offSchedule",
      subjectId: this.site.pocs[sensed.reduce((a, b) => (of(b) > of(a) ? b : a))]?.id as string,
      measuredLpm: measured,
      expectedLpm: 0,
    });
  }

  private pressure(
    system: SystemState,
    live: SystemLive,
    r: ReadingMessage,
    running: number[],
    now: number,
    told: LiveAlarm[],
  ): void {
    for (const { poc, device } of system.pressures) {
      const measured = r.pressure[device.id];
      if (measured === undefined || measured === null) continue;
      const kept = live.pressure[device.id] ?? { low: CALM, high: CALM };
      const judged = running.length > 0 && now - 1 >= live.holdUntil;
      const policy = policyOfSet(this.w, running);
      for (const [side, limit, beyond] of [
        ["low", device.lowKpa, measured < (device.lowKpa ?? 0)],
        ["high", device.highKpa, measured > (device.highKpa ?? 0)],
      ] as const) {
        if (limit === undefined) continue;
        const next = judged
          ? countBeyond(kept[side], beyond, policy.persistenceS)
          : { state: { count: 0, told: kept[side].told }, trips: false };
        kept[side] = next.state;
        if (next.trips)
          told.push({
            at: now,
            kind: side === "low" ? "pressureLow" : "pressureHigh",
            subjectId: device.id,
            measuredLpm:
              this.sum(
                r,
                pocSensing(this.w, poc).sensors.map((d) => d.id),
              ) ?? 0,
            expectedLpm: this.expected(running),
            kPa: { measured, limit },
          });
      }
      live.pressure[device.id] = kept;
    }
  }

  /** Σ of these sensors, L/min; null where one gave no value. */
  private sum(r: ReadingMessage, sensors: string[]): number | null {
    let total = 0;
    for (const id of sensors) {
      const read = r.flow[id];
      if (read === undefined || read === null) return null;
      total += read;
    }
    return sensors.length === 0 ? null : total;
  }

  private expected(running: number[]): number {
    return setLimits(
      this.site.policy,
      running.map((s) => this.site.stations[s] as Station),
    ).expectedLpm;
  }

  private allowance(system: SystemState, at: number): number {
    const date = localDate(this.site.site.timeZone, at);
    if (this.calendar?.date !== date) this.calendar = { date, capacity: new CapacityCalendar(this.w, date) };
    return system.pocs.reduce(
      (sum, p) => sum + (this.calendar as { capacity: CapacityCalendar }).capacity.reserveLpm(p, at),
      0,
    );
  }
}
