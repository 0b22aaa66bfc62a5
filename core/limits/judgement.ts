import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import { BROKEN_LATERAL_SHARE, BROKEN_OUTLET_LPM } from "../bench/faults/station-faults.ts";
import { Plant } from "../bench/plant.ts";
import { supplyVariation } from "../bench/supply-pressure.ts";
import { READING_NOISE } from "../bench/sensor-readings.ts";
import { normal, randomFrom } from "../bench/random.ts";
import { isDue } from "../calendar/due.ts";
import { addDays } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { type PlanRun, plan } from "../dispatch/plan.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Policy, SiteFile, Station } from "../site-file/schema.ts";
import { withInherited } from "../judge/policy-of.ts";
import { CALM, judgeReading } from "../judge/persistence.ts";
import { type SetLimits, setLimits } from "../judge/set-limits.ts";
import { setKey, setRatio } from "../judge/set-ratio.ts";
import { TAUGHT_BY_NIGHTS, type TaughtSet, taughtOf } from "../judge/taught-sets.ts";
import { shareOf, watchedIn } from "./watched.ts";
import { misfitSd } from "../judge/misfit.ts";
import { type Stretch, stretchesOf } from "./stretches.ts";
import { tripInterval } from "./trip-interval.ts";

/** What a policy sees, costs and trips for nothing on one site (handbook#8-choosing). */
export type PolicyFigures = {
  stations: number;
  /** Share of run time that is watched at all; null where nothing runs. */
  watched: number | null;
  /** Stations whose break passes unseen in every set they run in, and those where it does in some. */
  lateralNever: string[];
  lateralSometimes: string[];
  outletNever: string[];
  neverOpensUnseen: string[];
  falseTrips: FalseTrips;
  /** Litres that one broken lateral costs until it is isolated, or until its run ends: mean over stations, and the worst. */
  lateralL: { mean: number; worst: number; worstId: string } | null;
};
/** Trips for nothing in a season, from simulated nights with fixed seeds; a 95 % interval of their mean, for trips that come in clusters. */
export type FalseTrips = { perSeason: number; low: number; high: number; nights: number; seasonNights: number };

export const SEASON_DAYS = 182;
const NIGHTS = 60;
/** Valves have settled, and the pressure with them. */
const SETTLES_S = 16;
const AVERAGED_S = 4;

/** A night, ready to be judged by any policy: what runs together, and what it draws of the sum of its parts. */
export type JudgedNight = {
  w: Waterworks;
  date: string;
  runs: readonly PlanRun[];
  stretches: Stretch[];
  /** What each stretch really draws ÷ Σ expected of its parts, by the pressure that is left with all of them open. */
  drawn: number[];
  seasonNights: number;
};

/**
 * @param date local date whose night is taken as usual
 * @param sets what nights say of the sets that run: where they were read that is what they draw, else what the network leaves them
 */
export function judgedNight(asked: SiteFile, date: string, sets: readonly TaughtSet[] = []): JudgedNight {
  const site = withInherited(asked);
  const taught = taughtOf(site, sets);
  const w = waterworks(site);
  const { runs } = plan(site, date);
  const stretches = stretchesOf(w, runs);
  const known = new Map<string, number>();
  const drawn = stretches.map((s) => {
    const key = s.stations.join(",");
    const read = taught(s.stations.map((i) => nth(site.stations, i).id));
    const ratio =
      known.get(key) ??
      (read && read.nights >= TAUGHT_BY_NIGHTS ? read.ratio : drawnShare(w, date, s.stations, s.from));
    known.set(key, ratio);
    return ratio;
  });
  const seasonNights = Array.from({ length: SEASON_DAYS }, (_, i) => addDays(date, i)).filter((d) =>
    site.programs.some((p) => p.enabled !== false && isDue(p, d)),
  ).length;
  return { w, date, runs, stretches, drawn, seasonNights };
}

/** The same night as it would be judged with every set of it learned. */
export function withSetsLearned(night: JudgedNight): JudgedNight {
  const { w, stretches, drawn } = night;
  const ids = (s: Stretch): string[] => s.stations.map((i) => nth(w.site.stations, i).id);
  const at = "1970-01-01T00:00:00Z";
  const setRatios = [
    ...new Map(
      stretches.flatMap((s, i) =>
        s.stations.length > 1
          ? [
              [
                setKey(ids(s)),
                { stationIds: ids(s), ratio: nth(drawn, i), meanLpm: 0, sdLpm: 0, partsLpm: 0, at },
              ] as const,
            ]
          : [],
      ),
    ).values(),
  ];
  return { ...night, w: { ...w, site: { ...w.site, setRatios } } };
}

/** Runs a set on a still bench until it has settled. */
export function drawnShare(w: Waterworks, date: string, stations: number[], at: number): number {
  const expected = stations.reduce((sum, s) => sum + (expectedFlow(nth(w.site.stations, s))?.lpm ?? 0), 0);
  if (expected <= 0) return 1;
  const calendar = new CapacityCalendar(w, date);
  const bench = new Plant(w, calendar, [], null, false, true);
  const commands = {
    stations: new Set(stations),
    pocValve: w.site.pocs.map(() => true),
    mainlineValve: w.site.mainlines.map(() => true),
    pump: w.site.pocs.map(() => true),
  };
  let flow = 0;
  for (let t = 0; t < SETTLES_S; t++) {
    const { stationLpm } = bench.second(at + t, commands);
    if (t >= SETTLES_S - AVERAGED_S) flow += [...stationLpm.values()].reduce((a, b) => a + b, 0) / AVERAGED_S;
  }
  return flow / expected;
}

/** `sets`: what nights say that sets draw. */
export type JudgeOptions = {
  nights?: number;
  seed?: number;
  sets?: readonly TaughtSet[];
  onProgress?: (share: number) => boolean;
};

/** Figures of each policy, all judged on the same simulated nights. `onProgress` hears 0 to 1 and cancels with false (null is returned then). */
export function policyFigures(
  night: JudgedNight,
  policies: readonly Policy[],
  options: JudgeOptions = {},
): PolicyFigures[] | null {
  const limits = policies.map((p) => limitsOf(night, p));
  const falseTrips = falseTripsOf(night, policies, limits, options);
  return (
    falseTrips &&
    policies.map((p, i) => ({
      ...seenBy(night, p, nth(limits, i)),
      falseTrips: nth(falseTrips, i),
      lateralL: lateralLitres(night, p, nth(limits, i)),
    }))
  );
}

/** Which breaks a policy sees in the sets that run. */
function seenBy(
  night: JudgedNight,
  policy: Policy,
  limits: SetLimits[],
): Omit<PolicyFigures, "falseTrips" | "lateralL"> {
  const { w, stretches } = night;
  const { site } = w;
  const lateral = new Map<number, boolean[]>();
  const outlet = new Map<number, boolean[]>();
  const neverOpens = new Map<number, boolean[]>();
  const note = (into: Map<number, boolean[]>, s: number, seen: boolean): void => {
    const known = into.get(s);
    if (known) known.push(seen);
    else into.set(s, [seen]);
  };
  stretches.forEach((stretch, i) => {
    const limit = nth(limits, i);
    const judged = limit.judged && isJudged(stretch, policy);
    const drawn = limit.expectedLpm * shareDrawn(night, i);
    for (const s of stretch.stations) {
      const station = nth(site.stations, s);
      const own = expectedFlow(station)?.lpm ?? 0;
      note(lateral, s, judged && drawn + BROKEN_LATERAL_SHARE * own > limit.highLpm);
      note(outlet, s, judged && drawn + BROKEN_OUTLET_LPM[station.emitter ?? "other"] > limit.highLpm);
      note(neverOpens, s, judged && drawn - own < limit.lowLpm);
    }
  });
  const ids = (from: Map<number, boolean[]>, test: (seen: boolean[]) => boolean): string[] =>
    [...from].filter(([, seen]) => test(seen)).map(([s]) => nth(site.stations, s).id);
  const never = (seen: boolean[]): boolean => !seen.some(Boolean);
  return {
    stations: lateral.size,
    watched: shareOf(watchedIn(stretches, policy.persistenceS).values()),
    lateralNever: ids(lateral, never),
    lateralSometimes: ids(lateral, (seen) => !never(seen) && seen.some((x) => !x)),
    outletNever: ids(outlet, never),
    neverOpensUnseen: ids(neverOpens, never),
  };
}

function limitsOf({ w, stretches }: JudgedNight, policy: Policy): SetLimits[] {
  return stretches.map((stretch) => {
    const stations = stretch.stations.map((s) => nth(w.site.stations, s));
    return setLimits(policy, stations, 0, setRatio(w.site, stations));
  });
}

export const isJudged = (stretch: Stretch, policy: Policy): boolean =>
  stretch.to - stretch.judgedFrom >= Math.max(1, policy.persistenceS);

/** What a stretch draws ÷ what is expected of it: its ratio is in the expectation already where it was learned. */
function shareDrawn({ w, stretches, drawn }: JudgedNight, i: number): number {
  const stations = nth(stretches, i).stations.map((s) => nth(w.site.stations, s));
  return nth(drawn, i) / setRatio(w.site, stations);
}

/** Spread of what the supply gives from night to night, as a share of flow: pressure ± 2 % is flow ± 1 %. */
export const NIGHT_SD = 0.01;
const UNLEARNED_SD = 0.03;

/** How far a station may be from its figure on a night, as a share of it: as learned, else 3 % (handbook#12-last-night). */
export function spreadOf(s: Station): number {
  const e = expectedFlow(s);
  return e && s.learned && e.lpm > 0 ? s.learned.sdLpm / e.lpm : UNLEARNED_SD;
}

/** A reading strays no further than this from its base but by a wonder: supply 1.5 %, noise of 1 % six times over. */
const STRAYS = 0.08;

/**
 * Nights without any fault: each station off by its learned spread, the supply varying, what a set draws not quite what the network says, the sensor noisy. Counts trips, one a stretch at most;
 * with a retest only the second of a set. Every policy judges the same readings.
 */
function falseTripsOf(
  night: JudgedNight,
  policies: readonly Policy[],
  limits: SetLimits[][],
  options: JudgeOptions,
): FalseTrips[] | null {
  const { w, stretches } = night;
  const nights = options.nights ?? NIGHTS;
  const seed = options.seed ?? 1;
  const spread = w.site.stations.map(spreadOf);
  const expected = w.site.stations.map((s) => expectedFlow(s)?.lpm ?? 0);
  /** By policy, of each night. */
  const trips = policies.map(() => Array<number>(nights).fill(0));
  for (let n = 0; n < nights; n++) {
    if (n % 4 === 0 && options.onProgress?.(n / nights) === false) return null;
    const random = randomFrom(seed * 7919 + n);
    const phase = Array.from({ length: w.systemCount }, () => random() * 2 * Math.PI);
    const off = w.site.stations.map((_, s) => 1 + nth(spread, s) * normal(random));
    const gives = 1 + NIGHT_SD * normal(random);
    stretches.forEach((stretch, i) => {
      const base = limits[0]?.[i]?.expectedLpm ?? 0;
      // Its own chance, so that a figure does not hang on which other policies were asked for.
      const noise = randomFrom(seed * 104_729 + n * 3001 + i);
      const misfit = 1 + misfitSd(shareDrawn(night, i)) * normal(noise);
      const drawn = base * shareDrawn(night, i) * reallyDrawn(stretch, expected, off) * gives * misfit;
      const judges = policies.flatMap((policy, k) => judgeOf(stretch, policy, k, limits[k]?.[i], drawn));
      if (judges.length === 0) return;
      for (let t = stretch.judgedFrom; t < stretch.to; t++) {
        const supply = Math.sqrt(supplyVariation(t, phase[stretch.system] ?? 0));
        const reading = drawn * supply * (1 + READING_NOISE * normal(noise));
        for (const judge of judges)
          if (tripsNow(judge, reading, t)) {
            // What tripped is closed: it trips once.
            judge.from = Number.POSITIVE_INFINITY;
            const counted = nth(trips, judge.k);
            counted[n] = nth(counted, n) + 1;
          }
      }
    });
  }
  const scale = night.seasonNights / nights;
  return trips.map((counts) => {
    const count = counts.reduce((a, b) => a + b, 0);
    const [low, high] = tripInterval(counts);
    return { perSeason: count * scale, low: low * scale, high: high * scale, nights, seasonNights: night.seasonNights };
  });
}

/** One policy's judging of a stretch. */
type StretchJudge = {
  /** Place of the policy. */
  k: number;
  limit: SetLimits;
  policy: Policy;
  high: typeof CALM;
  low: typeof CALM;
  /** Trips that do not count yet. */
  retests: number;
  from: EpochS;
  waitS: number;
};

/** Flow of a stretch with each station off by its own share, as a share of what is expected. */
function reallyDrawn(stretch: Stretch, expected: readonly number[], off: readonly number[]): number {
  const sum = stretch.stations.reduce((total, s) => total + (expected[s] ?? 0), 0);
  if (sum <= 0) return 1;
  return stretch.stations.reduce((total, s) => total + (expected[s] ?? 0) * (off[s] ?? 1), 0) / sum;
}

/** Whoever judges the stretch and could trip at all. */
function judgeOf(
  stretch: Stretch,
  policy: Policy,
  k: number,
  limit: SetLimits | undefined,
  drawnLpm: number,
): StretchJudge[] {
  if (!limit?.judged || !isJudged(stretch, policy)) return [];
  const strays = drawnLpm * (1 + STRAYS) > limit.highLpm || drawnLpm * (1 - STRAYS) < limit.lowLpm;
  if (!strays) return [];
  return [
    {
      k,
      limit,
      policy,
      high: CALM,
      low: CALM,
      retests: policy.retest ? 1 : 0,
      from: stretch.judgedFrom,
      waitS: (policy.retestWaitS ?? 60) + stretch.judgedFrom - stretch.from,
    },
  ];
}

/** Judges one second; true when a trip counts. */
function tripsNow(judge: StretchJudge, readingLpm: number, t: EpochS): boolean {
  if (t < judge.from) return false;
  const high = judgeReading(judge.high, readingLpm - judge.limit.highLpm, judge.policy);
  const low = judgeReading(judge.low, judge.limit.lowLpm - readingLpm, judge.policy);
  [judge.high, judge.low] = [high.state, low.state];
  if (!high.trips && !low.trips) return false;
  if (judge.retests === 0) return true;
  // Closed, waited, run again: the count begins anew after another hold-off.
  judge.retests--;
  judge.from = t + 1 + judge.waitS;
  [judge.high, judge.low] = [CALM, CALM];
  return false;
}

/** A lateral that breaks as its station opens: water until the first set in which that is seen has tripped, and again while it is tested; else until its run ends. */
function lateralLitres(night: JudgedNight, policy: Policy, limits: SetLimits[]): PolicyFigures["lateralL"] {
  const { w, stretches } = night;
  const by = new Map<number, number>();
  const over = new Set<number>();
  stretches.forEach((stretch, i) => {
    const limit = nth(limits, i);
    for (const s of stretch.stations) {
      if (over.has(s)) continue;
      const breakLpm = BROKEN_LATERAL_SHARE * (expectedFlow(nth(w.site.stations, s))?.lpm ?? 0);
      const seen =
        limit.judged &&
        isJudged(stretch, policy) &&
        limit.expectedLpm * shareDrawn(night, i) + breakLpm > limit.highLpm;
      const holdOffS = stretch.judgedFrom - stretch.from;
      let seconds = stretch.to - stretch.from;
      if (seen && policy.highResponse !== "notify") {
        over.add(s);
        const again = policy.retest ? holdOffS + policy.persistenceS : 0;
        seconds =
          Math.min(seconds, holdOffS + policy.persistenceS) +
          again +
          (policy.highResponse === "findAndIsolate" ? holdOffS + policy.persistenceS : 0);
      }
      by.set(s, (by.get(s) ?? 0) + (breakLpm * seconds) / 60);
    }
  });
  if (by.size === 0) return null;
  const [worstAt, worst] = [...by].reduce((a, b) => (b[1] > a[1] ? b : a));
  return {
    mean: [...by.values()].reduce((a, b) => a + b, 0) / by.size,
    worst,
    worstId: nth(w.site.stations, worstAt).id,
  };
}
