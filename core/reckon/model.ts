import { misfitSd } from "../judge/misfit.ts";
import { got, nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Station } from "../site-file/schema.ts";
import { sharesOf } from "./drawing.ts";
import { cholesky, forward, gram, type Matrix } from "./matrix.ts";
import type { Point, Stretch } from "./stretches.ts";

/*
 * What the readings of nights are made of (handbook#12-last-night). A reading of the set S in the night n is
 *
 *   y = ρ(S)·Σ x + leaks of the mains that stand under pressure + ŷ·(factor of its sensors + misfit of the set + f(n) + s(t)) + noise
 *
 * linear in a state of stations' flows, leaks, factors and misfits. f is common to a night (supply pressure), s swings slowly within it; both are no state but make readings of
 * one night alike. The misfit of a set comes back every night: without it the same set would be new evidence each time.
 */

/** Of the flow: what is common to a night. */
const NIGHT_SD = 0.02;
/** Of the flow: what swings within a night, and how fast, s. */
const SWING_SD = 0.007;
const SWING_S = 840;
/** Of the flow: what swings faster than a stretch lasts, and how fast, s. */
const FLUTTER_SD = 0.0035;
const FLUTTER_S = 220;
/** Of one reading: the sensor's noise. */
const NOISE_SD = 0.01;
/** Of the flow: no mean is surer. */
const LEAST_SD = 0.001;
/**
 * Of a station's flow: how sure its figure is at first, by where it is from. A learned one is the mean of a minute of readings, surer than their spread, at the supply of that hour.
 */
const LEARNED_SD = 0.007;
const OF_SPREAD = 0.5;
const ENTERED_SD = 0.03;
const DESIGN_SD = 0.1;
/** No reading is taken for smaller, L/min. */
const LEAST_LPM = 1;
/** A station without any figure may draw whatever it does, L/min: nothing it reads is a change of anything else. */
const NO_FIGURE_SD_LPM = 3000;
/** Of a station's flow: how far it may have wandered since its figure was learned, by the root of the nights. */
const WANDER_SD = 0.0005;
const DAY_S = 86_400;

/** One unknown of the state. Flows and leaks in L/min; factors and misfits as shares of the reading. */
export type Unknown =
  | { kind: "station"; place: number }
  | { kind: "main"; place: number }
  | { kind: "sensor"; point: number }
  | { kind: "misfit"; key: string };

/** What one night says of the state: Λ = Hᵀ R⁻¹ H and η = Hᵀ R⁻¹ y; with (H y), the root L of R and L⁻¹(H y), for what begins in the middle of it. */
export type NightSays = {
  night: string;
  information: Matrix;
  evidence: Matrix;
  stretches: Stretch[];
  /** H and y, a row a stretch. */
  responses: Matrix;
  root: Matrix;
  whitened: Matrix;
};

export class Model {
  readonly unknowns: Unknown[];
  readonly size: number;
  readonly begin: Float64Array;
  /** Variances at first; 0: known to be 0 until a change is found. */
  readonly variance: Float64Array;
  readonly w: Waterworks;
  readonly points: readonly Point[];
  private readonly pointAt: Map<string, number>;
  private readonly misfits = new Map<string, number>();
  private readonly shares = new Map<string, Map<number, number>>();
  private readonly mainsAt: number;
  private readonly sensorsAt: number;

  constructor(w: Waterworks, points: readonly Point[], stretches: readonly Stretch[]) {
    this.w = w;
    this.points = points;
    this.pointAt = new Map(points.map((p, i) => [p.id, i]));
    const { stations, mainlines } = w.site;
    this.mainsAt = stations.length;
    this.sensorsAt = this.mainsAt + mainlines.length;
    const misfits = comingBack(stretches);
    this.unknowns = [
      ...stations.map((_, place): Unknown => ({ kind: "station", place })),
      ...mainlines.map((_, place): Unknown => ({ kind: "main", place })),
      ...points.map((_, point): Unknown => ({ kind: "sensor", point })),
      ...misfits.map(({ key }): Unknown => ({ kind: "misfit", key })),
    ];
    this.size = this.unknowns.length;
    this.begin = Float64Array.from(this.unknowns, (u) =>
      u.kind === "station" ? (expectedFlow(nth(stations, u.place))?.lpm ?? 0) : 0,
    );
    this.variance = new Float64Array(this.size);
    const first = stretches[0]?.from ?? 0;
    for (const [i, s] of stations.entries()) this.variance[i] = firstSdLpm(s, first) ** 2;
    misfits.forEach(({ key, stretch }, i) => {
      const place = this.sensorsAt + points.length + i;
      this.misfits.set(key, place);
      this.variance[place] = this.misfitSd(stretch) ** 2;
    });
  }

  /** What a stretch should read by a state, L/min. */
  predicted(stretch: Stretch, state: Float64Array): number {
    const shares = this.sharesOf(stretch);
    return stretch.set.reduce((sum, s) => sum + got(shares, s) * (state[s] as number), 0);
  }

  /** What the network leaves of the parts of a set together, by their expected flows. */
  ratio(stretch: Stretch): number {
    const parts = stretch.set.reduce((sum, s) => sum + (this.begin[s] as number), 0);
    return parts > 0 ? this.predicted(stretch, this.begin) / parts : 1;
  }

  /** How much more a stretch reads for one more of each unknown: of a station's L/min, a leak's L/min, a factor, a misfit. */
  response(stretch: Stretch, expectedLpm: number): Map<number, number> {
    const found = new Map<number, number>(this.sharesOf(stretch));
    for (const s of found.keys()) if (!stretch.set.includes(s)) found.delete(s);
    for (const m of this.pressurised(stretch)) found.set(this.mainsAt + m, 1);
    found.set(this.sensorsAt + got(this.pointAt, stretch.point), expectedLpm);
    const misfit = this.misfits.get(keyOf(stretch));
    if (misfit !== undefined) found.set(misfit, expectedLpm);
    return found;
  }

  /** @param state what is known of it, for how large its readings should be */
  says(night: string, stretches: Stretch[], state: Float64Array): NightSays {
    const [n, k] = [this.size, stretches.length];
    const expected = stretches.map((s) => this.sizeOf(s, state));
    const rows = new Float64Array(k * (n + 1));
    for (const [i, s] of stretches.entries()) {
      for (const [u, by] of this.response(s, nth(expected, i))) rows[i * (n + 1) + u] = by;
      rows[i * (n + 1) + n] = s.meanLpm;
    }
    const root = cholesky(this.covariance(stretches, expected), k);
    const responses = rows.slice();
    const whitened = forward(root, k, rows, n + 1);
    const all = gram(whitened, k, n + 1);
    const information = new Float64Array(n * n);
    const evidence = new Float64Array(n);
    for (let i = 0; i < n; i++) {
      for (let j = 0; j < n; j++) information[i * n + j] = all[i * (n + 1) + j] as number;
      evidence[i] = all[i * (n + 1) + n] as number;
    }
    return { night, information, evidence, stretches, root, responses, whitened };
  }

  /** How large a reading is, for what is a share of it: as it should be; where nobody knows that of one of the set, at least what was read. */
  private sizeOf(s: Stretch, state: Float64Array): number {
    const predicted = this.predicted(s, state);
    const known = s.set.every((x) => (this.begin[x] as number) > 0);
    return Math.max(LEAST_LPM, known ? predicted : Math.max(predicted, s.meanLpm));
  }

  /** Of the readings of one night, given the state. */
  private covariance(stretches: readonly Stretch[], expected: readonly number[]): Matrix {
    const k = stretches.length;
    const r = new Float64Array(k * k);
    const middle = stretches.map((s) => (s.from + s.to) / 2);
    for (let i = 0; i < k; i++)
      for (let j = 0; j <= i; j++) {
        const alike = this.alike(nth(stretches, i), nth(stretches, j));
        const apart = (nth(middle, i) - nth(middle, j)) / SWING_S;
        const share = alike * (NIGHT_SD ** 2 + SWING_SD ** 2 * Math.exp((-apart * apart) / 2));
        const own = i === j ? this.ownVariance(nth(stretches, i)) : 0;
        const value = nth(expected, i) * nth(expected, j) * (share + own);
        r[i * k + j] = value;
        r[j * k + i] = value;
      }
    return r;
  }

  private ownVariance(s: Stretch): number {
    const flutter = FLUTTER_SD ** 2 * Math.min(1, FLUTTER_S / s.seconds);
    const once = this.misfits.has(keyOf(s)) ? 0 : this.misfitSd(s) ** 2;
    return NOISE_SD ** 2 / Math.max(1, s.readings) + LEAST_SD ** 2 + flutter + once;
  }

  /** Points of one system feel the same supply; other systems another one. */
  private alike(a: Stretch, b: Stretch): number {
    const of = (s: Stretch): Set<number> => new Set(this.pointOf(s).systems.map((x) => x.index));
    if (a.point === b.point) return 1;
    const mine = of(a);
    return [...of(b)].some((x) => mine.has(x)) ? 1 : 0;
  }

  private pointOf(s: Stretch): Point {
    return nth(this.points, got(this.pointAt, s.point));
  }

  private misfitSd(s: Stretch): number {
    return misfitSd(this.ratio(s));
  }

  private sharesOf(s: Stretch): Map<number, number> {
    const key = s.open.join();
    let found = this.shares.get(key);
    if (!found) {
      found = sharesOf(this.w, s.open);
      this.shares.set(key, found);
    }
    return found;
  }

  /** Mains behind a point that a break would empty while this set runs: behind a valve of their own only while something under them runs. */
  private pressurised(s: Stretch): number[] {
    const { site, mainsAbove, stationMainline } = this.w;
    const used = new Set(s.open.flatMap((x) => mainsAbove[nth(stationMainline, x)] ?? []));
    return [...this.pointOf(s).covers].filter((m) => {
      const valve = (mainsAbove[m] ?? []).find((x) =>
        site.mainlines[x]?.devices?.some((d) => d.kind === "masterValve"),
      );
      if (this.w.systemOfMainline[m] === undefined) return false;
      return valve === undefined ? true : used.has(valve);
    });
  }
}

const keyOf = (s: Stretch): string => `${s.point}:${s.open.join()}`;

/** Sets that run in more than one night, with one stretch of each. */
function comingBack(stretches: readonly Stretch[]): { key: string; stretch: Stretch }[] {
  const nights = new Map<string, { stretch: Stretch; nights: Set<string> }>();
  for (const stretch of stretches) {
    const known = nights.get(keyOf(stretch)) ?? { stretch, nights: new Set() };
    known.nights.add(stretch.night);
    nights.set(keyOf(stretch), known);
  }
  return [...nights].flatMap(([key, x]) => (x.nights.size > 1 ? [{ key, stretch: x.stretch }] : []));
}

/** @param first when the first night is read */
function firstSdLpm(s: Station, first: EpochS): number {
  const expected = expectedFlow(s);
  if (!expected) return NO_FIGURE_SD_LPM;
  if (expected.from !== "learned") return (expected.from === "entered" ? ENTERED_SD : DESIGN_SD) * expected.lpm;
  const nights = Math.max(0, first - Date.parse(s.learned?.at ?? "") / 1000) / DAY_S;
  const wandered = Number.isFinite(nights) ? WANDER_SD * Math.sqrt(nights) : ENTERED_SD;
  const learnedLpm = OF_SPREAD * (s.learned?.sdLpm ?? ENTERED_SD * expected.lpm);
  return Math.hypot(learnedLpm, LEARNED_SD * expected.lpm, wandered * expected.lpm);
}
