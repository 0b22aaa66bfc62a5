import { nth } from "../../checked.ts";
import { BROKEN_LATERAL_SHARE, BROKEN_OUTLET_LPM } from "../../bench/faults/station-faults.ts";
import { normal, randomFrom } from "../../bench/random.ts";
import { READING_NOISE } from "../../bench/sensor-readings.ts";
import { supplyVariation } from "../../bench/supply-pressure.ts";
import { setRatio } from "../../judge/set-ratio.ts";
import { lowestCommonMainline } from "../../judge/system.ts";
import type { Waterworks } from "../../network/waterworks.ts";
import { expectedFlow } from "../../site-file/expected-flow.ts";
import { type JudgedNight, NIGHT_SD, SEASON_DAYS, spreadOf } from "../judgement.ts";
import { type Stretch, systemIsSensed } from "../stretches.ts";
import { misfitSd } from "../../judge/misfit.ts";
import { heldLevel, type Judging } from "./held.ts";
import { normalTail } from "./normal-tail.ts";
import { Swing } from "./swing.ts";

/** What breaks and how often, and what nights do, as the person states it (handbook#13-watched-night). */
export type BudgetAssumptions = {
  /** Breaks of each kind in a season, of a hundred stations; 0: does not count. */
  lateralsPer100: number;
  outletsPer100: number;
  /** Days after which somebody sees an unseen break by walking past. */
  foundAfterDays: number;
  /** Spread from night to night of what the supply gives, as a share of flow: pressure ± 2 % is flow ± 1 %. */
  nightSd: number;
  /** Valves and pressure have settled after so many seconds; no hold-off is made shorter. */
  settledS: number;
  /** A swing of the pressure that passes, or a hose that is opened, may last so many seconds. */
  leastPersistenceS: number;
};
export const USUAL_ASSUMPTIONS: BudgetAssumptions = {
  lateralsPer100: 1,
  outletsPer100: 2,
  foundAfterDays: 14,
  nightSd: NIGHT_SD,
  settledS: 30,
  leastPersistenceS: 30,
};

/** One stretch of the night as limits see it; flows of stations are as expected in that company. */
export type GroundStretch = {
  system: number;
  seconds: number;
  stations: number[];
  /** Σ expected of the set, L/min. */
  expectedLpm: number;
  /** What it draws ÷ what is expected of it. */
  drawn: number;
  /** Each station's share of what is expected, in the order of `stations`. */
  shares: number[];
  /** It has a flow figure for every station, one that is monitored, and a sensor on every connection. */
  judged: boolean;
  /** The mains whose policy judges it, the lowest first; empty: the site's. */
  mains: readonly number[];
};

/** A station in one of its stretches: its place, and the station's share of what is expected. */
export type Visit = { i: number; stretch: GroundStretch; share: number };
/** How the readings of a stretch stray, over and under. */
export type Swings = { high: Swing; low: Swing };
/** Readings of simulated nights, and the same with their signs turned. */
type Simulated = { up: Float32Array[]; down: Float32Array[] };

const NIGHTS = 60;
/** Readings of all simulated nights together; a large site has fewer nights, and each of them says more. */
const MOST_READINGS = 6_000_000;
const LEAST_NIGHTS = 12;

/** A night with what happens on it: everything about it that does not hang on the limits. */
export class Ground {
  readonly w: Waterworks;
  readonly assumed: BudgetAssumptions;
  readonly stretches: GroundStretch[];
  /** By station: where it runs, in the order of the night; and how many L/min a broken lateral and outlet lose. */
  readonly of: Visit[][];
  readonly lateralLpm: number[];
  readonly outletLpm: number[];
  readonly seasonNights: number;
  readonly nights: number;
  private readonly seed: number;
  private readonly at: Stretch[];
  private readonly sd: number[];
  private readonly readings = new Map<number, Simulated>();
  private readonly swings = new Map<string, Swings>();

  constructor(night: JudgedNight, assumed: BudgetAssumptions, seed: number) {
    const { w, stretches } = night;
    this.w = w;
    this.assumed = assumed;
    this.seed = seed;
    this.seasonNights = night.seasonNights;
    this.at = stretches;
    const expected = w.site.stations.map((s) => expectedFlow(s)?.lpm ?? 0);
    this.stretches = stretches.map((s, i) => groundStretch(w, s, nth(night.drawn, i), expected));
    this.sd = this.stretches.map(({ stations, shares, drawn }) =>
      Math.hypot(
        assumed.nightSd,
        misfitSd(drawn),
        ...stations.map((s, k) => nth(shares, k) * spreadOf(nth(w.site.stations, s))),
      ),
    );
    this.of = w.site.stations.map((_, s) =>
      this.stretches.flatMap((stretch, i): Visit[] => {
        const share = stretch.shares[stretch.stations.indexOf(s)];
        return share !== undefined && stretch.expectedLpm > 0 ? [{ i, stretch, share }] : [];
      }),
    );
    this.lateralLpm = expected.map((lpm) => BROKEN_LATERAL_SHARE * lpm);
    this.outletLpm = w.site.stations.map((s) => BROKEN_OUTLET_LPM[s.emitter ?? "other"]);
    const perNight = this.stretches.reduce((sum, s) => sum + (s.judged ? s.seconds : 0), 0);
    this.nights = Math.max(LEAST_NIGHTS, Math.min(NIGHTS, Math.floor(MOST_READINGS / Math.max(1, perNight))));
  }

  /** Nights on which an unseen break runs until somebody walks past. */
  get nightsUnseen(): number {
    return Math.max(1, (this.assumed.foundAfterDays * this.seasonNights) / SEASON_DAYS);
  }

  /** How the readings of a stretch stray, judged like this. */
  swing(i: number, how: Judging): Swings {
    const key = `${i} ${how.judge} ${how.persistenceS} ${how.holdOffS} ${how.retestWaitS}`;
    const known = this.swings.get(key);
    if (known) return known;
    const { high, low } = this.levels(i, how);
    const { drawn } = nth(this.stretches, i);
    const sd = nth(this.sd, i);
    const made = { high: new Swing(high, drawn, sd), low: new Swing(low, drawn, sd) };
    this.swings.set(key, made);
    return made;
  }

  /** Trips for nothing of a stretch on each simulated night; `high` and `low` as shares of what is expected. */
  tripsByNight(i: number, how: Judging, high: number, low: number): number[] {
    const levels = this.levels(i, how);
    const { drawn } = nth(this.stretches, i);
    const sd = nth(this.sd, i);
    const beyond = (limit: number, level: number): number => (limit / (drawn * level) - 1) / sd;
    return levels.high.map((level, n) =>
      Number.isFinite(level) ? normalTail(beyond(high, level)) + normalTail(-beyond(low, nth(levels.low, n))) : 0,
    );
  }

  /** The levels that a stretch's readings hold above and below on each night, as shares of what it draws on that night. */
  private levels(i: number, how: Judging): { high: number[]; low: number[] } {
    const nights = this.readings.get(i) ?? this.simulated(i);
    this.readings.set(i, nights);
    return {
      high: nights.up.map((readings) => heldLevel(readings, how)),
      low: nights.down.map((readings) => -heldLevel(readings, how)),
    };
  }

  /** Readings of a stretch on each night, one a second, as shares of what it draws: supply that swings, a sensor that is noisy. */
  private simulated(i: number): Simulated {
    const { from, system } = nth(this.at, i);
    const { seconds } = nth(this.stretches, i);
    const up = Array.from({ length: this.nights }, (_, n) => {
      const random = randomFrom(this.seed * 7919 + n * 61 + system);
      const phase = 2 * Math.PI * random();
      const noise = randomFrom(this.seed * 104_729 + n * 3001 + i);
      return Float32Array.from(
        { length: seconds },
        (__, t) => Math.sqrt(supplyVariation(from + t, phase)) * (1 + READING_NOISE * normal(noise)),
      );
    });
    return { up, down: up.map((readings) => readings.map((x) => -x)) };
  }
}

function groundStretch(w: Waterworks, s: Stretch, drawn: number, expected: readonly number[]): GroundStretch {
  const { site } = w;
  const stations = s.stations.map((x) => nth(site.stations, x));
  const ratio = setRatio(site, stations);
  const expectedLpm = ratio * s.stations.reduce((sum, x) => sum + nth(expected, x), 0);
  const mains = [...new Set(s.stations.map((x) => nth(w.stationMainline, x)))];
  const shared = lowestCommonMainline(w, mains);
  const monitored = (x: number): boolean => site.stations[x]?.monitored !== false;
  return {
    system: s.system,
    seconds: s.to - s.from,
    stations: s.stations,
    expectedLpm,
    drawn: drawn / ratio,
    shares: s.stations.map((x) => (expectedLpm > 0 ? (ratio * nth(expected, x)) / expectedLpm : 0)),
    judged:
      systemIsSensed(w, s.system) && s.stations.some(monitored) && stations.every((x) => expectedFlow(x) !== null),
    mains: shared === null ? [] : (w.mainsAbove[shared] ?? []),
  };
}
