import { nth } from "../checked.ts";
import { localDate } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import type { Alarm, AlarmKind, AlarmNote } from "../judge/alarm.ts";
import {
  blankJudge,
  forget,
  type JudgeState,
  judgeBurst,
  judgeOffSchedule,
  judgePressure,
  judgePumps,
  judgeSet,
  keyOfSet,
  limitsOfSet,
  pointLpm,
  type Seen,
  valvesTurned,
} from "../judge/judge.ts";
import { withInherited } from "../judge/policy-of.ts";
import { EMPTY_AFTER_S, fillS, holdOffS, type JudgedSystem, judgedSystems } from "../judge/system.ts";
import { systemOf } from "../network/system-of.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import type { Device, FlowSensor, SiteFile } from "../site-file/schema.ts";
import { type AlarmedDeparture, type Departure, departed, type Standing } from "./departure.ts";
import type { EventMessage, ReadingMessage } from "./messages.ts";

/** What is remembered of one connected system; plain data, so it is kept with the readings. */
type SystemLive = {
  judge: JudgeState;
  /** Since when every master valve of it is shut; null while one is open. */
  shutSince: number | null;
  /** When the controller last spoke of a trip of its own, and whether it is searching. */
  spokeAt: number;
  searching: boolean;
  /** Trips that wait for the controller's own word. */
  pending: Alarm[];
  /** Since when it reads outside its limits, and what that has cost so far; absent in what was kept by an earlier version. */
  departure?: Departure | null;
};
/** What the judge remembers between readings. */
export type LiveState = { at: number | null; open: string[]; valves: string[]; systems: SystemLive[] };

/** A reading stands for the time since the one before, up to so long; after more it is a gap and counting starts afresh. */
export const GAP_S = 150;
/** A controller that finds and isolates has so long to speak of a trip before it is told without it. */
export const ANSWER_S = 120;
const SPEAKS = new Set(["trip", "searchBegins", "retest", "suspect", "alarm", "stopped"]);

/**
 * Judges a live site by the limits of its configuration, one reading at a time, with the same judge as the bench (core/judge). Presa opens no real valves, so it only tells.
 * A controller that isolates tells for itself; its word is waited for.
 */
export class LiveJudge {
  private readonly site: SiteFile;
  private readonly w: Waterworks;
  private readonly systems: JudgedSystem[];
  private calendar: { date: string; capacity: CapacityCalendar } | null = null;

  constructor(site: SiteFile) {
    this.site = withInherited(site);
    this.w = waterworks(this.site);
    this.systems = judgedSystems(this.w);
  }

  blank(): LiveState {
    return {
      at: null,
      open: [],
      valves: [],
      systems: this.systems.map((s) => ({
        judge: blankJudge(s),
        shutSince: null,
        spokeAt: Number.MIN_SAFE_INTEGER,
        searching: false,
        pending: [],
        departure: null,
      })),
    };
  }

  /** State kept under another revision of the configuration: used where it still fits. */
  fits(state: LiveState): boolean {
    return (
      state.systems.length === this.systems.length &&
      state.systems.every((live, i) => {
        const blank = blankJudge(nth(this.systems, i));
        return (["points", "burst", "dryS", "pressures"] as const).every(
          (list) => live.judge?.[list]?.length === blank[list].length,
        );
      })
    );
  }

  /** What the controller says of itself. An alarm of its own is an alarm. */
  event(state: LiveState, e: EventMessage): Alarm[] {
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
    const told: Alarm = {
      at,
      kind: e.alarm.kind as AlarmKind,
      subjectId: e.subject,
      measuredLpm: e.alarm.measuredLpm,
      expectedLpm: e.alarm.expectedLpm,
      ...(e.alarm.note ? { note: e.alarm.note as AlarmNote } : {}),
      ...(e.alarm.kPa ? { kPa: e.alarm.kPa } : {}),
    };
    if (live) becomes(live, told);
    return [told];
  }

  /** Departures that have become an alarm, as far as they have come. */
  departures(state: LiveState): AlarmedDeparture[] {
    return state.systems.flatMap(({ departure }) =>
      departure?.alarm && departure.seconds > 0 ? [{ ...departure, alarm: departure.alarm }] : [],
    );
  }

  /** Numbers that never came: nothing is counted across them. */
  hole(state: LiveState): void {
    state.at = null;
    for (const live of state.systems) loseThread(live);
  }

  /**
   * The readings of one instant. Readings older than the last are passed over.
   *
   * @param isolates the controller finds and isolates by itself
   */
  reading(state: LiveState, r: ReadingMessage, isolates: boolean): Alarm[] {
    const now = Math.round(Date.parse(r.at) / 1000);
    if (state.at !== null && now <= state.at) return [];
    const gap = state.at === null || now - state.at > GAP_S;
    const stands = gap ? 1 : now - (state.at as number);
    if (gap) for (const live of state.systems) loseThread(live);
    this.noteValves(state, r, now - stands, gap);
    state.at = now;
    const seen = this.eyes(r);
    const told: Alarm[] = [];
    this.systems.forEach((system, i) => {
      const live = nth(state.systems, i);
      const tripped: Alarm[] = [];
      const settled = now - stands >= live.judge.holdUntil;
      const standing = this.standing(system, state.open, seen, now);
      live.departure = departed(live.departure ?? null, standing, now, stands, settled, live.searching);
      for (let at = now - stands + 1; at <= now; at++) tripped.push(...this.second(system, live, state.open, seen, at));
      const mine: Alarm[] = isolates ? [] : tripped.map((a) => ({ ...a, note: "onlyTold" }));
      if (isolates) live.pending.push(...tripped.filter((a) => a.at - live.spokeAt > ANSWER_S));
      for (const a of live.pending.filter((p) => now - p.at >= ANSWER_S)) mine.push({ ...a, note: "controllerSilent" });
      live.pending = live.pending.filter((p) => now - p.at < ANSWER_S);
      if (mine[0]) becomes(live, mine[0]);
      told.push(...mine);
    });
    return told;
  }

  /** What a set of stations should read now and between which limits; null where it cannot be judged. */
  band(open: readonly string[], at: number): { expectedLpm: number; highLpm: number; lowLpm: number } | null {
    const places = open.flatMap((id) => this.w.stationIndex.get(id) ?? []);
    if (places.length === 0) return null;
    const allowance = this.systems
      .filter((s) => places.some((p) => this.systemAt(p) === s.index))
      .reduce((sum, s) => sum + this.allowance(s, at), 0);
    return limitsOfSet(this.w, places, allowance);
  }

  /** What a system reads, and what it should by what runs; null where a part of it is not told or not judged. */
  private standing(system: JudgedSystem, open: string[], seen: Seen, at: number): Standing | null {
    const measuredLpm = pointLpm({ mainline: null, pocs: system.sensed }, seen);
    if (measuredLpm === null || system.sensed.length === 0) return null;
    const running = this.runningIn(system, open);
    const allowance = this.allowance(system, at);
    if (running.length === 0)
      return { measuredLpm, expectedLpm: 0, lowLpm: 0, highLpm: system.restLimitLpm + allowance };
    const limits = limitsOfSet(this.w, running, allowance);
    return limits.judged ? { measuredLpm, ...limits } : null;
  }

  private systemAt(station: number): number | undefined {
    return this.w.systemOfMainline[nth(this.w.stationMainline, station)];
  }

  private runningIn(system: JudgedSystem, open: Iterable<string>): number[] {
    return [...open]
      .flatMap((id) => this.w.stationIndex.get(id) ?? [])
      .filter((s) => this.systemAt(s) === system.index);
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
      const live = nth(state.systems, i);
      const valves = this.devicesOf(system).filter((d) => d.kind === "masterValve");
      const shut = valves.length > 0 && !valves.some((d) => now.valves.has(d.id));
      const wasEmpty = live.shutSince !== null && since - live.shutSince >= EMPTY_AFTER_S;
      live.shutSince = shut ? (live.shutSince ?? since) : null;
      if (!changed.has(i) && !gap) return;
      const hold = holdOffS(this.w, system, this.runningIn(system, now.open));
      const filling = wasEmpty && !shut ? fillS(this.w, system) : 0;
      valvesTurned(live.judge, since, Math.max(hold, filling));
    });
    state.open = [...now.open];
    state.valves = [...now.valves];
  }

  private devicesOf(system: JudgedSystem): Device[] {
    return [
      ...system.pocs.flatMap((p) => this.site.pocs[p]?.devices ?? []),
      ...system.mainlines.flatMap((m) => this.site.mainlines[m]?.devices ?? []),
    ];
  }

  private second(system: JudgedSystem, live: SystemLive, open: string[], seen: Seen, now: number): Alarm[] {
    const { w } = this;
    const { judge } = live;
    const running = this.runningIn(system, open);
    const allowance = (at: number): number => this.allowance(system, at);
    const pocId = (p: number): string => nth(this.site.pocs, p).id;
    const told: Alarm[] = [
      ...judgePumps(w, system, judge, seen, () => running, live.searching).map(({ deviceId, poc: _, ...a }) => ({
        ...a,
        at: now,
        subjectId: deviceId,
      })),
      ...judgeBurst(w, system, judge, seen, () => running).map(({ poc, ...a }) => ({
        ...a,
        at: now,
        subjectId: pocId(poc),
      })),
    ];
    if (live.searching) return told;
    system.points.forEach((point, place) => {
      const set = running.filter((s) => point.covers.has(nth(w.stationMainline, s)));
      const { trip } = judgeSet(w, judge, place, point, seen, set, keyOfSet(set), allowance, now);
      if (!trip) return;
      const { kind, subjectId, measuredLpm, limits } = trip;
      const { expectedLpm } = limits;
      told.push({ at: now, kind: kind === "high" ? "stationHigh" : "stationLow", subjectId, measuredLpm, expectedLpm });
    });
    const off = judgeOffSchedule(w, system, judge, seen, running.length === 0, allowance, now);
    if (off)
      told.push({
        at: now,
        kind: "offSchedule",
        subjectId: pocId(off.poc),
        measuredLpm: off.measuredLpm,
        expectedLpm: 0,
      });
    for (const { deviceId, response: _, ...a } of judgePressure(w, system, judge, seen, () => running, now))
      told.push({ ...a, at: now, subjectId: deviceId });
    return told;
  }

  /** What a message of the gateway shows. */
  private eyes(r: ReadingMessage): Seen {
    const sum = (sensors: FlowSensor[]): number | null => {
      let total = 0;
      for (const { id } of sensors) {
        const read = r.flow[id];
        if (read === undefined || read === null) return null;
        total += read;
      }
      return sensors.length === 0 ? null : total;
    };
    const valves = new Set(r.valves);
    return {
      pocLpm: (p) => sum(pocSensing(this.w, p).sensors),
      mainLpm: (m) =>
        sum(
          (this.site.mainlines[m]?.devices ?? []).filter((d): d is FlowSensor => d.kind === "flowSensor").slice(0, 1),
        ),
      pressureKpa: ({ device }) => r.pressure[device.id] ?? null,
      pumpRuns: (_, deviceId) => r.pumps.includes(deviceId),
      pocOpen: (p) => {
        const valve = this.site.pocs[p]?.devices.find((d) => d.kind === "masterValve");
        return !valve || valves.has(valve.id);
      },
    };
  }

  private allowance(system: JudgedSystem, at: number): number {
    const date = localDate(this.site.site.timeZone, at);
    if (this.calendar?.date !== date) this.calendar = { date, capacity: new CapacityCalendar(this.w, date) };
    const { capacity } = this.calendar;
    return system.pocs.reduce((sum, p) => sum + capacity.reserveLpm(p, at), 0);
  }
}

/** The first alarm of a departure bears what it costs; one that comes before anything was outside here, what follows. */
function becomes(live: SystemLive, { at, subjectId }: Alarm): void {
  const departure = live.departure ?? { from: at, until: at, seconds: 0, litres: 0, alarm: null };
  live.departure = { ...departure, alarm: departure.alarm ?? { at, subjectId } };
}

function loseThread(live: SystemLive): void {
  forget(live.judge);
  live.pending = [];
  // The word that a search is over may be what is missing.
  live.searching = false;
}
