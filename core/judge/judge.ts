import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Policy, Response, Station } from "../site-file/schema.ts";
import { CALM, countBeyond, judgeReading, type Persistence } from "./persistence.ts";
import { policyOfSet } from "./policy-of.ts";
import { type SetLimits, setLimits } from "./set-limits.ts";
import { setRatio } from "./set-ratio.ts";
import { type JudgedSystem, type JudgePoint, type PressureWatch, subjectOfSet } from "./system.ts";

/** A pump against no flow is stopped after so long, s (handbook#8-limits). */
export const PUMP_DRY_S = 60;

/** What is read in one second, whoever reads it: the bench's plant or a gateway. Flow in L/min, null where nothing tells. */
export type Seen = {
  pocLpm: (poc: number) => number | null;
  mainLpm: (mainline: number) => number | null;
  /** kPa; null where nothing tells. */
  pressureKpa: (watch: PressureWatch) => number | null;
  pumpRuns: (poc: number, deviceId: string) => boolean;
  /** Its master valve stands open, or it has none. */
  pocOpen: (poc: number) => boolean;
};

type PointState = { key: string; high: Persistence; low: Persistence };
/** How long each condition of one system has lasted: plain data, lists in the order of the system's own. */
export type JudgeState = {
  /** Readings of seconds before this instant are not judged. */
  holdUntil: EpochS;
  points: PointState[];
  /** By POC. */
  burst: Persistence[];
  offSchedule: Persistence;
  /** Seconds without flow, by pump. */
  dryS: number[];
  pressures: { low: Persistence; high: Persistence }[];
};

/** What trips, before anybody answers it. */
export type BurstTrip = { kind: "burst"; poc: number; measuredLpm: number; expectedLpm: number };
export type OffScheduleTrip = { kind: "offSchedule"; poc: number; measuredLpm: number };
export type PumpTrip = { kind: "pumpNoFlow"; poc: number; deviceId: string; measuredLpm: number; expectedLpm: number };
export type PressureTrip = {
  kind: "pressureLow" | "pressureHigh";
  deviceId: string;
  measuredLpm: number;
  expectedLpm: number;
  kPa: { measured: number; limit: number };
  /** The gauge's own, else that of the flow limit of the same side. */
  response: Response;
};
export type SetTrip = {
  kind: "high" | "low";
  subjectId: string;
  measuredLpm: number;
  limits: SetLimits;
  policy: Policy;
};
/** A set judged for a second: what trips, and whether it has read inside both limits through hold-off and persistence. */
export type SetJudged = { trip: SetTrip | null; right: SetLimits | null };

/** A judge that has seen nothing yet. */
export function blankJudge(system: JudgedSystem): JudgeState {
  return {
    holdUntil: Number.MIN_SAFE_INTEGER,
    points: system.points.map(() => ({ key: "", high: CALM, low: CALM })),
    burst: system.pocs.map(() => CALM),
    offSchedule: CALM,
    dryS: system.pumps.map(() => 0),
    pressures: system.pressures.map(() => ({ low: CALM, high: CALM })),
  };
}

/** Nothing is being counted. */
export function isCalm(state: JudgeState): boolean {
  return (
    state.offSchedule.count === 0 &&
    state.dryS.every((s) => s === 0) &&
    state.burst.every((b) => b.count === 0) &&
    state.points.every((p) => p.high.count === 0 && p.low.count === 0) &&
    state.pressures.every((p) => p.low.count === 0 && p.high.count === 0)
  );
}

/** Nothing is counted across what was not read; the hold-off stays. */
export function forget(state: JudgeState): void {
  state.points = state.points.map((p) => ({ key: p.key, high: CALM, low: CALM }));
  state.burst = state.burst.map(() => CALM);
  state.offSchedule = CALM;
  state.dryS = state.dryS.map(() => 0);
  state.pressures = state.pressures.map(() => ({ low: CALM, high: CALM }));
}

/** A valve of the system turned: hold-off (or filling, where the main stood empty) begins, and counts of sets begin afresh. */
export function valvesTurned(state: JudgeState, at: EpochS, waitS: number): void {
  state.holdUntil = Math.max(state.holdUntil, at + waitS);
  for (const point of state.points) {
    point.high = { count: 0, told: point.high.told };
    point.low = { count: 0, told: point.low.told };
  }
}

/** A retest or a search begins: what trips after it trips anew (site-file#isolating). */
export function tripsAnew(state: JudgeState): void {
  for (const point of state.points) Object.assign(point, { high: CALM, low: CALM });
}

/** A test begins: what a pump runs without flow counts from here. */
export function pumpsAnew(state: JudgeState): void {
  state.dryS = state.dryS.map(() => 0);
}

/** Hold-off is over for the second that ended at `now`. */
const settled = (state: JudgeState, now: EpochS): boolean => now - 1 >= state.holdUntil;

/** Flow at a point, L/min; null where a part of it is not told. */
export function pointLpm(point: Pick<JudgePoint, "mainline" | "pocs">, seen: Seen): number | null {
  if (point.mainline !== null) return seen.mainLpm(point.mainline);
  let sum = 0;
  for (const p of point.pocs) {
    const lpm = seen.pocLpm(p);
    if (lpm === null) return null;
    sum += lpm;
  }
  return sum;
}

/** Σ expected flow of what runs, L/min, for the words of an alarm that no set is blamed for. */
function expectedOf(w: Waterworks, running: readonly number[]): number {
  return setLimits(w.site.policy, stationsAt(w, running)).expectedLpm;
}

const stationsAt = (w: Waterworks, places: readonly number[]): Station[] => places.map((s) => nth(w.site.stations, s));

/**
 * The burst limit of each connection: its own persistence, no hold-off.
 *
 * @param running places of the stations that run, for the words of an alarm; asked only where one trips
 */
export function judgeBurst(
  w: Waterworks,
  system: JudgedSystem,
  state: JudgeState,
  seen: Seen,
  running: () => readonly number[],
): BurstTrip[] {
  const trips: BurstTrip[] = [];
  for (const [i, p] of system.pocs.entries()) {
    const poc = w.site.pocs[p];
    if (poc?.burstLimitLpm === undefined) continue;
    const measuredLpm = seen.pocLpm(p);
    if (measuredLpm === null) continue;
    const beyond = measuredLpm > poc.burstLimitLpm + 1e-6;
    const next = countBeyond(state.burst[i] ?? CALM, beyond, poc.burstPersistenceS ?? 15);
    state.burst[i] = next.state;
    if (next.trips) trips.push({ kind: "burst", poc: p, measuredLpm, expectedLpm: expectedOf(w, running()) });
  }
  return trips;
}

/**
 * A pump running against no flow for 60 s; hold-off never suspends that.
 *
 * @param running as in {@link judgeBurst}
 * @param excused its connection is not to be believed now, or the pump is tested against closed valves: nothing is counted
 */
export function judgePumps(
  w: Waterworks,
  system: JudgedSystem,
  state: JudgeState,
  seen: Seen,
  running: () => readonly number[],
  excused: boolean,
): PumpTrip[] {
  const trips: PumpTrip[] = [];
  for (const [i, { poc, device, noFlowLpm }] of system.pumps.entries()) {
    const measuredLpm = seen.pocLpm(poc);
    const dry =
      !excused &&
      noFlowLpm !== null &&
      measuredLpm !== null &&
      measuredLpm < noFlowLpm &&
      seen.pumpRuns(poc, device.id);
    const dryS = dry ? (state.dryS[i] ?? 0) + 1 : 0;
    state.dryS[i] = dryS;
    if (dryS !== PUMP_DRY_S) continue;
    const expectedLpm = expectedOf(w, running());
    trips.push({ kind: "pumpNoFlow", poc, deviceId: device.id, measuredLpm: measuredLpm ?? 0, expectedLpm });
  }
  return trips;
}

/**
 * Flow while nothing runs, after hold-off, over the off-schedule limit and what hand watering is allowed.
 *
 * @param idle nothing runs, and nothing is tested
 */
export function judgeOffSchedule(
  w: Waterworks,
  system: JudgedSystem,
  state: JudgeState,
  seen: Seen,
  idle: boolean,
  allowanceLpm: (at: EpochS) => number,
  now: EpochS,
): OffScheduleTrip | null {
  const watched = idle && settled(state, now);
  const reads = watched ? system.sensed.map((p) => seen.pocLpm(p)) : [];
  if (reads.length === 0 || reads.includes(null)) {
    state.offSchedule = CALM;
    return null;
  }
  const measuredLpm = reads.reduce<number>((sum, lpm) => sum + (lpm ?? 0), 0);
  const beyond = measuredLpm > system.restLimitLpm + allowanceLpm(now - 1) + 1e-6;
  const persistenceS = Math.max(...system.sensed.map((p) => w.site.pocs[p]?.offSchedulePersistenceS ?? 120));
  const next = countBeyond(state.offSchedule, beyond, persistenceS);
  state.offSchedule = next.state;
  if (!next.trips) return null;
  const most = reads.reduce<number>((best, lpm, i) => ((lpm ?? 0) > (reads[best] ?? 0) ? i : best), 0);
  return { kind: "offSchedule", poc: nth(system.sensed, most), measuredLpm };
}

/**
 * Pressure limits while stations run, after hold-off, as long as a flow limit.
 *
 * @param runs places of the stations that run; asked only where there is such a limit
 */
export function judgePressure(
  w: Waterworks,
  system: JudgedSystem,
  state: JudgeState,
  seen: Seen,
  runs: () => readonly number[],
  now: EpochS,
): PressureTrip[] {
  if (system.pressures.length === 0) return [];
  const running = runs();
  const judged = running.length > 0 && settled(state, now);
  const policy = policyOfSet(w, running);
  return system.pressures.flatMap((watch, i): PressureTrip[] => {
    const measured = seen.pressureKpa(watch);
    const kept = state.pressures[i];
    if (measured === null || !kept) return [];
    const { lowKpa, highKpa } = watch.device;
    return (["low", "high"] as const).flatMap((side): PressureTrip[] => {
      const limit = side === "low" ? lowKpa : highKpa;
      if (limit === undefined) return [];
      const beyond = side === "low" ? measured < limit : measured > limit;
      const next =
        judged && seen.pocOpen(watch.poc)
          ? countBeyond(kept[side], beyond, watch.device.persistenceS ?? policy.persistenceS)
          : { state: { count: 0, told: kept[side].told }, trips: false };
      kept[side] = next.state;
      if (!next.trips) return [];
      return [
        {
          kind: side === "low" ? "pressureLow" : "pressureHigh",
          deviceId: watch.device.id,
          measuredLpm: seen.pocLpm(watch.poc) ?? 0,
          expectedLpm: setLimits(policy, stationsAt(w, running)).expectedLpm,
          kPa: { measured, limit },
          response: watch.device.response ?? (side === "low" ? policy.lowResponse : policy.highResponse),
        },
      ];
    });
  });
}

type LimitsNow = SetLimits & { policy: Policy };
/** By the set that runs, as long as it is the same list: those it was judged by the second before. */
const KNOWN = new WeakMap<readonly number[], { w: Waterworks; allowanceLpm: number; limits: LimitsNow }>();

/** The limits of a set as they hold now; a list of places is never changed once it has been judged. */
export function limitsOfSet(w: Waterworks, set: readonly number[], allowanceLpm: number): LimitsNow {
  const known = KNOWN.get(set);
  if (known && known.w === w && known.allowanceLpm === allowanceLpm) return known.limits;
  const stations = stationsAt(w, set);
  const policy = policyOfSet(w, set);
  const limits = { ...setLimits(policy, stations, allowanceLpm, setRatio(w.site, stations)), policy };
  KNOWN.set(set, { w, allowanceLpm, limits });
  return limits;
}

/**
 * High and low of the set that runs behind a point, after hold-off, by the policy's school (handbook#8-limits).
 *
 * @param set places of the stations in the file, those behind this point
 * @param key the same for the same set
 */
export function judgeSet(
  w: Waterworks,
  state: JudgeState,
  place: number,
  point: JudgePoint,
  seen: Seen,
  set: readonly number[],
  key: string,
  allowanceLpm: (at: EpochS) => number,
  now: EpochS,
): SetJudged {
  const kept = nth(state.points, place);
  if (key !== kept.key) Object.assign(kept, { key, high: CALM, low: CALM });
  const nothing: SetJudged = { trip: null, right: null };
  if (set.length === 0 || !settled(state, now)) return nothing;
  const measuredLpm = pointLpm(point, seen);
  if (measuredLpm === null) return nothing;
  const limits = limitsOfSet(w, set, allowanceLpm(now - 1));
  if (!limits.judged) return nothing;
  const { policy } = limits;
  const high = judgeReading(kept.high, measuredLpm - limits.highLpm, policy);
  const low = judgeReading(kept.low, limits.lowLpm - measuredLpm, policy);
  kept.high = high.state;
  kept.low = low.state;
  if (high.trips || low.trips) {
    const subjectId = subjectOfSet(w, set);
    return { trip: { kind: high.trips ? "high" : "low", subjectId, measuredLpm, limits, policy }, right: null };
  }
  const through = now >= state.holdUntil + policy.persistenceS;
  return { trip: null, right: through && !low.beyond && kept.low.count === 0 ? limits : null };
}

/** One key for one set, in whatever order it runs. */
export const keyOfSet = (set: readonly number[]): string => [...set].sort((a, b) => a - b).join(",");
